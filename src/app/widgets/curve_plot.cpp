// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/curve_plot.h"

#include <QPainter>
#include <QPolygonF>
#include <algorithm>
#include <cmath>

#include "theme.h"

namespace optrel {
namespace {

QFont name_font() { return theme::text_font(8); }

}  // namespace

CurvePlot::CurvePlot(const QString& accessible_name, const QString& x_title, const QString& y_title, QWidget* parent)
    : PlotView(accessible_name, parent), x_title_(x_title), y_title_(y_title) {
    setMinimumSize(180, 120);
}

void CurvePlot::set_curves(std::vector<Curve> curves, double x_low, double x_high, double y_least) {
    curves_ = std::move(curves);
    x_low_ = x_low;
    x_high_ = x_high;
    y_least_ = y_least;
    update();
}

bool CurvePlot::empty() const {
    return std::all_of(curves_.begin(), curves_.end(), [](const Curve& c) { return c.points.empty(); });
}

std::pair<PlotScale, PlotScale> CurvePlot::scales(const QSizeF& area) const {
    // The axis includes zero, so that a small error looks small.
    double low = 0, high = 0;
    for (const Curve& c : curves_)
        for (std::size_t i = 0; i < c.points.size(); ++i) {
            const double s = c.sigma.empty() ? 0 : c.sigma[i];
            low = std::min(low, c.points[i].y() - s);
            high = std::max(high, c.points[i].y() + s);
        }
    const int ticks = std::clamp(static_cast<int>(area.height() / 26), 1, 5);
    PlotScale x{x_title_, x_low_, x_high_, {}};
    for (int i = 0; i <= 4; ++i) {
        const double at = x_low_ + i * (x_high_ - x_low_) / 4;
        x.ticks.push_back({at, QString::number(at, 'g', 3)});
    }
    return {x, PlotScale::of(y_title_, round_range(low, high, y_least_, ticks))};
}

double CurvePlot::right_room() const {
    double widest = 0;
    for (const Curve& c : curves_)
        if (!c.points.empty()) widest = std::max(widest, QFontMetricsF(name_font()).horizontalAdvance(c.label));
    return std::max(14.0, widest + 9);
}

void CurvePlot::paint_data(QPainter& p, const PlotArea& plot) const {
    p.save();
    p.setClipRect(plot.box.adjusted(-1, -1, 1, 1));
    for (const Curve& c : curves_) {
        QPolygonF line, lower;
        for (std::size_t i = 0; i < c.points.size(); ++i) line << plot.at(c.points[i].x(), c.points[i].y());
        if (!c.sigma.empty()) {
            QPolygonF band;
            for (std::size_t i = 0; i < c.points.size(); ++i)
                band << plot.at(c.points[i].x(), c.points[i].y() + c.sigma[i]);
            for (std::size_t i = c.points.size(); i-- > 0;)
                band << plot.at(c.points[i].x(), c.points[i].y() - c.sigma[i]);
            QColor fill = c.colour;
            fill.setAlpha(45);
            p.setPen(Qt::NoPen);
            p.setBrush(fill);
            p.drawPolygon(band);
        }
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(c.colour, 1.6, c.dash));
        p.drawPolyline(line);
    }
    p.restore();
    paint_names(p, plot);
}

/// Labels at the right ends of the curves, moved apart where they would overlap.
void CurvePlot::paint_names(QPainter& p, const PlotArea& plot) const {
    struct Name {
        double top;
        const Curve* curve;
    };
    const QRectF& inside = plot.box;
    const double height = QFontMetricsF(name_font()).height();
    std::vector<Name> names;
    for (const Curve& c : curves_)
        if (!c.points.empty())
            names.push_back({plot.at(c.points.back().x(), c.points.back().y()).y() - height / 2, &c});
    std::sort(names.begin(), names.end(), [](const Name& a, const Name& b) { return a.top < b.top; });
    double free_from = inside.top();
    for (Name& n : names) {
        n.top = std::max(n.top, free_from);
        free_from = n.top + height - 1;
    }
    // A label that would be cut off at the bottom moves up and pushes others up.
    double free_to = inside.bottom();
    for (auto n = names.rbegin(); n != names.rend(); ++n) {
        n->top = std::min(n->top, free_to - height);
        free_to = n->top + 1;
    }
    p.setFont(name_font());
    for (const Name& n : names) {
        p.setPen(n.curve->colour);
        p.drawText(QRectF(inside.right() + 5, n.top, right_room(), height), Qt::AlignLeft | Qt::AlignVCenter,
                   n.curve->label);
    }
}

QString CurvePlot::hint_at(const QPointF& at) const {
    const double x = plot().value_at(at).x();
    QStringList lines;
    for (const Curve& c : curves_) {
        if (c.points.size() < 2 || x < c.points.front().x() || x > c.points.back().x()) continue;
        std::size_t i = 1;
        while (i + 1 < c.points.size() && c.points[i].x() < x) ++i;
        const QPointF a = c.points[i - 1], b = c.points[i];
        const double t = b.x() > a.x() ? (x - a.x()) / (b.x() - a.x()) : 0;
        QString line = QString("%1: %2").arg(c.label).arg(a.y() + t * (b.y() - a.y()), 0, 'f', 3);
        if (!c.sigma.empty()) line += QString(" ± %1").arg(c.sigma[i], 0, 'f', 3);
        lines << line;
    }
    if (lines.isEmpty()) return {};
    return QString("%1 %2\n").arg(x_title_).arg(x, 0, 'f', 2) + lines.join('\n');
}

PlotView::Cells CurvePlot::cells() const {
    Cells rows{{"curve", x_title_.toStdString(), y_title_.toStdString(), "one sigma"}};
    const auto figure = [](double v) { return QString::number(v).toStdString(); };
    for (const Curve& c : curves_)
        for (std::size_t i = 0; i < c.points.size(); ++i)
            rows.push_back({c.label.toStdString(), figure(c.points[i].x()), figure(c.points[i].y()),
                            figure(c.sigma.empty() ? 0 : c.sigma[i])});
    return rows;
}

}  // namespace optrel
