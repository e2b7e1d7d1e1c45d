// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/curve_plot.h"

#include <QApplication>
#include <QAreaSeries>
#include <QBuffer>
#include <QCategoryAxis>
#include <QChart>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QFileDialog>
#include <QLineSeries>
#include <QMenu>
#include <QScatterSeries>
#include <QSvgGenerator>
#include <QToolTip>
#include <cmath>

#include "base/csv.h"
#include "base/error.h"
#include "base/output.h"
#include "base/ticks.h"
#include "theme.h"

namespace optrel {

CurvePlot::CurvePlot(const QString& accessible_name, const QString& x_title, const QString& y_title, QWidget* parent)
    : QChartView(parent), x_title_(x_title), y_title_(y_title) {
    setAccessibleName(accessible_name);
    setRenderHint(QPainter::Antialiasing);
    setFrameShape(QFrame::NoFrame);
    setMouseTracking(true);
    setMinimumSize(180, 120);
    chart()->legend()->hide();
    chart()->setMargins({2, 9, 18, 0});
    chart()->layout()->setContentsMargins(0, 0, 0, 0);
    chart()->setBackgroundBrush(theme::paper);
    chart()->setBackgroundRoundness(0);
    chart()->setBackgroundPen(QPen(theme::rule));
    connect(chart(), &QChart::plotAreaChanged, this, &CurvePlot::place_labels);
    set_curves({}, 0, 1, 1);
}

void CurvePlot::set_x_labels(std::vector<std::pair<double, QString>> labels) { x_labels_ = std::move(labels); }

void CurvePlot::set_y_title(const QString& title) { y_title_ = title; }

void CurvePlot::set_curves(std::vector<Curve> curves, double x_low, double x_high, double y_least) {
    curves_ = std::move(curves);
    x_low_ = x_low;
    x_high_ = x_high;
    y_least_ = y_least;
    draw();
}

int CurvePlot::ticks() const { return std::clamp((height() - 60) / 26, 1, 5); }

void CurvePlot::clear() {
    chart()->removeAllSeries();
    for (QAbstractAxis* axis : chart()->axes()) {
        chart()->removeAxis(axis);
        delete axis;
    }
    for (QGraphicsSimpleTextItem* label : labels_) delete label;
    labels_.clear();
    delete nothing_;
    nothing_ = nullptr;
}

/// Axes without a curve would show figures that mean nothing.
void CurvePlot::say_nothing() {
    nothing_ = new QGraphicsSimpleTextItem(accessibleName() + ": nothing measured yet", chart());
    nothing_->setFont(theme::text_font(8));
    nothing_->setBrush(theme::faint_ink);
    place_labels();
}

/// What the curves with their bands need, zero included.
std::pair<double, double> CurvePlot::range() const {
    double low = 0, high = 0;
    for (const Curve& c : curves_)
        for (std::size_t i = 0; i < c.points.size(); ++i) {
            const double s = c.sigma.empty() ? 0 : c.sigma[i];
            low = std::min(low, c.points[i].y() - s);
            high = std::max(high, c.points[i].y() + s);
        }
    const double spare = std::max(0.0, (y_least_ - (high - low)) / 2);
    return {low - spare, high + spare};
}

namespace {

/// Category axes, because their labels are ours to write: round values, no negative zero, ISO numbers on a scale of
/// stops.
QCategoryAxis* new_axis(const QString& title) {
    auto* axis = new QCategoryAxis;
    axis->setLabelsPosition(QCategoryAxis::AxisLabelsPositionOnValue);
    axis->setTruncateLabels(false);  // a figure cut to an ellipsis says nothing
    axis->setLabelsFont(theme::figure_font(7.5));
    axis->setTitleFont(theme::text_font(8));
    axis->setLabelsColor(theme::faint_ink);
    axis->setTitleBrush(theme::faint_ink);
    axis->setGridLineColor(QColor(228, 230, 224));
    axis->setLinePenColor(theme::faint_ink);
    axis->setTitleText(title);
    return axis;
}

}  // namespace

void CurvePlot::add_axes() {
    QCategoryAxis* x = new_axis(x_title_);
    x->setRange(x_low_, x_high_);
    if (x_labels_.empty())
        for (int i = 0; i <= 4; ++i) {
            const double at = x_low_ + i * (x_high_ - x_low_) / 4;
            x->append(QString::number(at, 'g', 3), at);
        }
    for (const auto& [value, label] : x_labels_) x->append(label, value);
    QCategoryAxis* y = new_axis(y_title_);
    const auto [low, high] = range();
    const double step = tick_step((high - low) * 1.08, ticks_);
    const int first = static_cast<int>(std::floor(low / step + 1e-9));
    const int last = static_cast<int>(std::ceil(high / step - 1e-9));
    for (int i = first; i <= last; ++i)
        y->append(i == 0 ? QString("0") : QString::fromStdString(tick_text(i * step, step)), i * step);
    y->setRange(first * step, last * step);
    chart()->addAxis(x, Qt::AlignBottom);
    chart()->addAxis(y, Qt::AlignLeft);
}

void CurvePlot::add_series(QAbstractSeries* series) {
    chart()->addSeries(series);
    for (QAbstractAxis* axis : chart()->axes()) series->attachAxis(axis);
}

void CurvePlot::add_curve(const Curve& c) {
    if (!c.sigma.empty()) {
        auto *upper = new QLineSeries, *lower = new QLineSeries;
        for (std::size_t i = 0; i < c.points.size(); ++i) {
            upper->append(c.points[i].x(), c.points[i].y() + c.sigma[i]);
            lower->append(c.points[i].x(), c.points[i].y() - c.sigma[i]);
        }
        auto* band = new QAreaSeries(upper, lower);
        QColor fill = c.colour;
        fill.setAlpha(45);
        band->setBrush(fill);
        band->setPen(Qt::NoPen);
        add_series(band);
    }
    auto* line = new QLineSeries;
    line->setPen(QPen(c.colour, 1.6, c.dash));
    for (const QPointF& p : c.points) line->append(p);
    add_series(line);
    if (!c.knots) return;
    auto* dots = new QScatterSeries;
    dots->setMarkerSize(7);
    dots->setColor(c.colour);
    dots->setBorderColor(theme::paper);
    for (const QPointF& p : c.points) dots->append(p);
    add_series(dots);
}

void CurvePlot::draw() {
    ticks_ = ticks();
    clear();
    if (std::all_of(curves_.begin(), curves_.end(), [](const Curve& c) { return c.points.empty(); }))
        return say_nothing();
    add_axes();
    double widest = 0;
    for (const Curve& c : curves_) {
        add_curve(c);
        auto* label = new QGraphicsSimpleTextItem(c.label, chart());
        label->setFont(theme::text_font(8));
        label->setBrush(c.colour);
        labels_.push_back(label);
        widest = std::max(widest, label->boundingRect().width());
    }
    // A name stands beside its curve, not on it.
    chart()->setMargins({2, 9, static_cast<int>(std::max(18.0, widest + 8)), 0});
    place_labels();
}

void CurvePlot::place_labels() {
    if (nothing_) {
        const QRectF box = nothing_->boundingRect();
        nothing_->setPos((chart()->size().width() - box.width()) / 2, (chart()->size().height() - box.height()) / 2);
        return;
    }
    // Each label stands beside the right end of its line, moved apart where two would touch.
    std::vector<std::pair<double, std::size_t>> order;
    for (std::size_t i = 0; i < labels_.size(); ++i) {
        labels_[i]->setVisible(!curves_[i].points.empty());
        if (!curves_[i].points.empty()) order.emplace_back(chart()->mapToPosition(curves_[i].points.back()).y(), i);
    }
    std::sort(order.begin(), order.end());
    const QRectF area = chart()->plotArea();
    std::vector<double> tops;
    double free_from = area.top();
    for (const auto& [y, i] : order) {
        const double height = labels_[i]->boundingRect().height();
        tops.push_back(std::max(y - height / 2, free_from));
        free_from = tops.back() + height - 1;
    }
    // What would stick out below moves up, and pushes up what is above it.
    double free_to = area.bottom();
    for (std::size_t k = order.size(); k-- > 0;) {
        QGraphicsSimpleTextItem* label = labels_[order[k].second];
        const QRectF box = label->boundingRect();
        tops[k] = std::min(tops[k], free_to - box.height());
        free_to = tops[k] + 1;
        label->setPos(area.right() + 5, tops[k]);
        label->setZValue(10);
    }
}

void CurvePlot::resizeEvent(QResizeEvent* event) {
    QChartView::resizeEvent(event);
    if (ticks() != ticks_) draw();
    place_labels();
}

void CurvePlot::mouseMoveEvent(QMouseEvent* event) {
    QChartView::mouseMoveEvent(event);
    const double x = chart()->mapToValue(event->position()).x();
    QStringList lines;
    for (const Curve& c : curves_) {
        if (c.points.empty() || x < c.points.front().x() || x > c.points.back().x()) continue;
        std::size_t i = 1;
        while (i + 1 < c.points.size() && c.points[i].x() < x) ++i;
        if (c.points.size() < 2) continue;
        const QPointF a = c.points[i - 1], b = c.points[i];
        const double t = b.x() > a.x() ? (x - a.x()) / (b.x() - a.x()) : 0;
        QString line = QString("%1: %2").arg(c.label).arg(a.y() + t * (b.y() - a.y()), 0, 'f', 3);
        if (!c.sigma.empty()) line += QString(" ± %1").arg(c.sigma[i], 0, 'f', 3);
        lines << line;
    }
    if (!lines.isEmpty())
        QToolTip::showText(event->globalPosition().toPoint(),
                           QString("%1 %2\n").arg(x_title_).arg(x, 0, 'f', 2) + lines.join('\n'), this);
}

QString CurvePlot::as_csv() const {
    std::vector<std::vector<std::string>> rows{{"curve", x_title_.toStdString(), y_title_.toStdString(), "one sigma"}};
    const auto figure = [](double v) { return QString::number(v).toStdString(); };
    for (const Curve& c : curves_)
        for (std::size_t i = 0; i < c.points.size(); ++i)
            rows.push_back({c.label.toStdString(), figure(c.points[i].x()), figure(c.points[i].y()),
                            figure(c.sigma.empty() ? 0 : c.sigma[i])});
    return QString::fromStdString(write_csv(rows, "\n"));
}

bool CurvePlot::save_svg(const QString& path) {
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    QSvgGenerator svg;
    svg.setOutputDevice(&buffer);
    svg.setDescription("Optrel");
    svg.setSize(size());
    svg.setViewBox(rect());
    svg.setTitle(accessibleName());
    QPainter painter;
    if (!painter.begin(&svg)) return false;
    render(&painter);
    if (!painter.end()) return false;
    try {
        write_output(path.toStdString(), svg_output(), Existing::replace_ours, bytes.toStdString());
        return true;
    } catch (const Error& error) {
        QToolTip::showText(mapToGlobal(rect().center()), QString::fromUtf8(error.what()), this);
        return false;
    }
}

void CurvePlot::contextMenuEvent(QContextMenuEvent* event) {
    QMenu menu;
    menu.addAction("Copy the values as CSV", this, [this] { QApplication::clipboard()->setText(as_csv()); });
    menu.addAction("Save as SVG…", this, [this] {
        const QString path =
            QFileDialog::getSaveFileName(this, "Save the plot", accessibleName() + ".svg", "SVG (*.svg)");
        if (!path.isEmpty()) save_svg(path);
    });
    menu.exec(event->globalPos());
}

}  // namespace optrel
