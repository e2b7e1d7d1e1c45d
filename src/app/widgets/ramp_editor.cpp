// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/ramp_editor.h"

#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QFileDialog>
#include <QKeyEvent>
#include <QMenu>
#include <QPainter>
#include <QPainterPath>
#include <QSvgGenerator>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "base/choose.h"
#include "base/csv.h"
#include "theme.h"

namespace optrel {

RampEditor::RampEditor(const QString& accessible_name, QWidget* parent) : QWidget(parent) {
    setAccessibleName(accessible_name);
    setAccessibleDescription(
        "Drag a knot; double-click adds one; arrow keys move the chosen one, Tab goes to the next, Delete takes it "
        "out");
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
}

void RampEditor::set_scale(const QString& title, double low, double high, int decimals) {
    title_ = title;
    low_limit_ = low;
    high_limit_ = high;
    decimals_ = decimals;
    find_range();
}

void RampEditor::set_knots(std::vector<Knot> knots, bool editable) {
    knots_ = std::move(knots);
    editable_ = editable;
    held_ = -1;
    chosen_ = std::min(chosen_, static_cast<int>(knots_.size()) - 1);
    find_range();
}

void RampEditor::set_resolved(std::vector<Knot> curve, const QString& label) {
    resolved_ = std::move(curve);
    resolved_label_ = label;
    find_range();
}

void RampEditor::set_frames(std::vector<Bar> bars) {
    bars_ = std::move(bars);
    find_range();
}

void RampEditor::set_hint(const QString& hint) {
    hint_ = hint;
    update();
}

/// The axes show all that is drawn, in whole stops, with some air.
void RampEditor::find_range() {
    double least = INFINITY, most = -INFINITY, first = 0, last = 7;
    for (const auto* list : {&knots_, &resolved_})
        for (const Knot& k : *list) {
            least = std::min(least, k.value);
            most = std::max(most, k.value);
            first = std::min(first, std::floor(std::log2(k.iso / 100)));
            last = std::max(last, std::ceil(std::log2(k.iso / 100)));
        }
    for (const Bar& b : bars_) {
        first = std::min(first, std::floor(std::log2(b.iso / 100)));
        last = std::max(last, std::ceil(std::log2(b.iso / 100)));
    }
    first_stop_ = std::max(-4.0, first);
    last_stop_ = std::min(17.0, last);
    if (least > most) least = most = 0;
    const double span =
        std::max(most - least, decimals_ ? (high_limit_ - low_limit_) * 0.05 : (high_limit_ - low_limit_) * 0.2);
    low_ = std::max(low_limit_, least - 0.25 * span);
    high_ = std::min(high_limit_, most + 0.35 * span);
    if (high_ <= low_) high_ = low_ + 1;
    // Round figures at the lines.
    const double rough = (high_ - low_) / 4, magnitude = std::pow(10.0, std::floor(std::log10(rough)));
    for (const double factor : {1.0, 2.0, 2.5, 5.0, 10.0}) {
        tick_ = factor * magnitude;
        if (tick_ >= rough) break;
    }
    low_ = tick_ * std::floor(low_ / tick_ + 1e-9);
    high_ = tick_ * std::ceil(high_ / tick_ - 1e-9);
    update();
}

QRectF RampEditor::plot() const { return QRectF(rect()).adjusted(48, 22, -16, -34); }

QPointF RampEditor::at(double iso, double value) const {
    const QRectF p = plot();
    return {p.left() + (std::log2(iso / 100) - first_stop_) / (last_stop_ - first_stop_) * p.width(),
            p.bottom() - (value - low_) / (high_ - low_) * p.height()};
}
double RampEditor::iso_at(double x) const {
    const QRectF p = plot();
    return 100 * std::exp2(first_stop_ + std::clamp((x - p.left()) / p.width(), 0.0, 1.0) * (last_stop_ - first_stop_));
}
double RampEditor::value_at(double y) const {
    const QRectF p = plot();
    const double v = low_ + (p.bottom() - y) / p.height() * (high_ - low_), step = std::pow(10.0, decimals_);
    return std::clamp(std::round(v * step) / step, low_limit_, high_limit_);
}

int RampEditor::knot_near(const QPointF& p) const {
    for (std::size_t i = 0; i < knots_.size(); ++i)
        if ((at(knots_[i].iso, knots_[i].value) - p).manhattanLength() < 12) return static_cast<int>(i);
    return -1;
}

void RampEditor::paintEvent(QPaintEvent*) {
    QPainter g(this);
    g.setRenderHint(QPainter::Antialiasing);
    g.fillRect(rect(), theme::paper);
    g.setPen(QPen(hasFocus() ? theme::mark : theme::rule));
    g.drawRect(rect().adjusted(0, 0, -1, -1));
    const QRectF p = plot();
    const QFont small = theme::figure_font(7.5);
    g.setFont(small);
    draw_bars(g, p);
    draw_scales(g, p);
    draw_curves(g, p);
}

/// The frames beneath, on a scale of their own: the tallest bar is as high as a third of the plot.
void RampEditor::draw_bars(QPainter& g, const QRectF& p) const {
    const int most = most_frames();
    const double bar_width = std::max(3.0, p.width() / std::max(1.0, 3 * (last_stop_ - first_stop_)) * 0.62);
    for (const Bar& b : bars_) {
        const double x = at(b.iso, low_).x(), height = most ? p.height() / 3 * b.frames / most : 0;
        g.fillRect(QRectF(x - bar_width / 2, p.bottom() - height, bar_width, height), QColor(217, 221, 212));
    }
}

int RampEditor::most_frames() const {
    int most = 0;
    for (const Bar& b : bars_) most = std::max(most, b.frames);
    return most;
}

void RampEditor::draw_scales(QPainter& g, const QRectF& p) const {
    const int most = most_frames();
    g.setPen(QColor(228, 230, 224));
    const int lines = static_cast<int>(std::lround((high_ - low_) / tick_));
    for (int i = 0; i <= lines; ++i)
        g.drawLine(QPointF(p.left(), p.bottom() - i * p.height() / lines),
                   QPointF(p.right(), p.bottom() - i * p.height() / lines));
    g.setPen(theme::faint_ink);
    for (int i = 0; i <= lines; ++i)
        g.drawText(
            QRectF(0, p.bottom() - i * p.height() / lines - 7, p.left() - 5, 14), Qt::AlignRight | Qt::AlignVCenter,
            QString::number(low_ + i * tick_, 'f',
                            first_of<int>({{tick_ < 0.1 || tick_ == 0.25, 2}, {tick_ < 1 || tick_ == 2.5, 1}}, 0)));
    for (double stop = std::ceil(first_stop_); stop <= last_stop_; ++stop) {
        const double x = at(100 * std::exp2(stop), low_).x();
        g.drawLine(QPointF(x, p.bottom()), QPointF(x, p.bottom() + 3));
        g.drawText(QRectF(x - 26, p.bottom() + 4, 52, 13), Qt::AlignCenter,
                   QString::number(std::round(100 * std::exp2(stop))));
    }
    g.drawLine(p.bottomLeft(), p.bottomRight());
    g.drawText(QRectF(0, p.bottom() + 17, width(), 14), Qt::AlignCenter,
               "ISO" + (most ? QString("; bars: frames, the tallest %1").arg(most) : QString()) +
                   (resolved_.empty() || resolved_label_.isEmpty() ? QString()
                                                                   : "; dashed: what " + resolved_label_ + " gets"));
    g.setFont(theme::text_font(8));
    g.drawText(QRectF(6, 3, width() - 12, 16), Qt::AlignLeft | Qt::AlignVCenter, title_);
    if (!hint_.isEmpty()) g.drawText(QRectF(6, 3, width() - 12, 16), Qt::AlignRight | Qt::AlignVCenter, hint_);
}

void RampEditor::draw_curves(QPainter& g, const QRectF& p) const {
    const auto curve = [&](const std::vector<Knot>& points) {
        QPainterPath path;
        for (std::size_t i = 0; i < points.size(); ++i)
            i ? path.lineTo(at(points[i].iso, points[i].value)) : path.moveTo(at(points[i].iso, points[i].value));
        return path;
    };
    g.setClipRect(p.adjusted(-6, -8, 6, 6));
    if (!resolved_.empty()) {
        g.setPen(QPen(theme::faint_ink, 1.2, Qt::DashLine));
        g.drawPath(curve(resolved_));
    }
    if (!knots_.empty()) {
        std::vector<Knot> whole = knots_;
        whole.insert(whole.begin(), {100 * std::exp2(first_stop_), knots_.front().value});
        whole.push_back({100 * std::exp2(last_stop_), knots_.back().value});
        g.setPen(QPen(theme::mark, 1.8));
        g.drawPath(curve(whole));
        for (std::size_t i = 0; i < knots_.size(); ++i) {
            const QPointF c = at(knots_[i].iso, knots_[i].value);
            g.setBrush(static_cast<int>(i) == chosen_ ? theme::mark : theme::paper);
            g.drawRect(QRectF(c.x() - 4, c.y() - 4, 8, 8));
        }
    }
    g.setClipping(false);
}

void RampEditor::mousePressEvent(QMouseEvent* event) {
    setFocus();
    if (event->button() != Qt::LeftButton || !editable_) return;
    held_ = chosen_ = knot_near(event->position());
    before_drag_ = knots_;
    update();
}

void RampEditor::mouseMoveEvent(QMouseEvent* event) {
    const double iso = iso_at(event->position().x()), value = value_at(event->position().y());
    if (held_ < 0) {
        const int near = knot_near(event->position());
        setCursor(near >= 0 && editable_ ? Qt::SizeAllCursor : Qt::ArrowCursor);
        QString text =
            near >= 0 ? QString("knot: ISO %1, %2").arg(knots_[near].iso).arg(knots_[near].value, 0, 'f', decimals_)
                      : QString();
        for (const Bar& b : bars_)
            if (text.isEmpty() && std::abs(at(b.iso, low_).x() - event->position().x()) < 6)
                text = QString("ISO %1: %2 frames").arg(b.iso).arg(b.frames);
        QToolTip::showText(event->globalPosition().toPoint(), text, this);
        return;
    }
    // A knot stays between its neighbours; it holds to thirds of a stop.
    double stop = std::round(3 * std::log2(iso / 100)) / 3;
    const double least = held_ > 0 ? std::log2(knots_[held_ - 1].iso / 100) + 0.33 : first_stop_,
                 most = held_ + 1 < static_cast<int>(knots_.size()) ? std::log2(knots_[held_ + 1].iso / 100) - 0.33
                                                                    : last_stop_;
    stop = std::clamp(stop, least, std::max(least, most));
    if (knots_.size() > 1) knots_[held_].iso = std::round(100 * std::exp2(stop));
    knots_[held_].value = value;
    QToolTip::showText(event->globalPosition().toPoint(),
                       QString("ISO %1: %2").arg(knots_[held_].iso).arg(value, 0, 'f', decimals_), this);
    update();
}

void RampEditor::mouseReleaseEvent(QMouseEvent*) {
    if (held_ < 0) return;
    held_ = -1;
    const bool same = std::equal(knots_.begin(), knots_.end(), before_drag_.begin(), before_drag_.end(),
                                 [](const Knot& a, const Knot& b) { return a.iso == b.iso && a.value == b.value; });
    if (!same) emit edited(knots_);
}

void RampEditor::mouseDoubleClickEvent(QMouseEvent* event) {
    if (!editable_ || knot_near(event->position()) >= 0) return;
    std::vector<Knot> next = knots_;
    // A constant becomes a ramp that begins where it stood.
    const double iso = std::round(100 * std::exp2(std::round(3 * std::log2(iso_at(event->position().x()) / 100)) / 3));
    std::erase_if(next, [&](const Knot& k) { return std::abs(std::log2(k.iso / iso)) < 0.2; });
    next.push_back({iso, value_at(event->position().y())});
    std::sort(next.begin(), next.end(), [](const Knot& a, const Knot& b) { return a.iso < b.iso; });
    emit edited(next);
}

void RampEditor::keyPressEvent(QKeyEvent* event) {
    if (!editable_ || knots_.empty()) return QWidget::keyPressEvent(event);
    const double step = decimals_ ? std::pow(10.0, -decimals_) * 5 : 1;
    std::vector<Knot> next = knots_;
    switch (event->key()) {
        case Qt::Key_Right:
        case Qt::Key_Left:
            chosen_ =
                std::clamp(chosen_ + (event->key() == Qt::Key_Right ? 1 : -1), 0, static_cast<int>(knots_.size()) - 1);
            return update();
        case Qt::Key_Up:
        case Qt::Key_Down:
            if (chosen_ < 0) return;
            next[chosen_].value =
                std::clamp(next[chosen_].value + (event->key() == Qt::Key_Up ? step : -step), low_limit_, high_limit_);
            emit edited(next);
            return;
        case Qt::Key_Delete:
            if (chosen_ < 0 || knots_.size() < 2) return;
            next.erase(next.begin() + chosen_);
            emit edited(next);
            return;
        default: QWidget::keyPressEvent(event);
    }
}

QString RampEditor::as_csv() const {
    std::vector<std::vector<std::string>> rows{{"curve", "ISO", title_.toStdString()}};
    const auto add = [&](const char* curve, double iso, double value) {
        rows.push_back({curve, QString::number(iso).toStdString(), QString::number(value).toStdString()});
    };
    for (const Knot& k : knots_) add("knot", k.iso, k.value);
    for (const Knot& k : resolved_) add("resolved", std::round(k.iso), k.value);
    for (const Bar& b : bars_) add("frames", b.iso, b.frames);
    return QString::fromStdString(write_csv(rows, "\n"));
}

void RampEditor::contextMenuEvent(QContextMenuEvent* event) {
    QMenu menu;
    menu.addAction("Copy as CSV", this, [this] { QApplication::clipboard()->setText(as_csv()); });
    menu.addAction("Save as SVG…", this, [this] {
        const QString path = QFileDialog::getSaveFileName(this, "Save the curve", "ramp.svg", "SVG (*.svg)");
        if (path.isEmpty()) return;
        QSvgGenerator svg;
        svg.setFileName(path);
        svg.setSize(size());
        svg.setViewBox(rect());
        render(&svg);
    });
    menu.exec(event->globalPos());
}

}  // namespace optrel
