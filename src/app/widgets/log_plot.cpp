// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/log_plot.h"

#include <QPainter>
#include <QPolygonF>
#include <algorithm>
#include <cmath>

#include "theme.h"
#include "widgets/end_labels.h"

namespace optrel {
namespace {

/// Few ticks, so that labels do not run into one another.
std::vector<PlotScale::Tick> thinned(std::vector<PlotScale::Tick> ticks, double low, double high, double room) {
    const double apart = 44 * (high - low) / std::max(1.0, room);
    std::vector<PlotScale::Tick> out;
    for (PlotScale::Tick& tick : ticks)
        if (out.empty() || tick.at - out.back().at >= apart) out.push_back(std::move(tick));
    return out;
}

std::vector<PlotScale::Tick> powers_of_ten(double low, double high, double unit) {
    std::vector<PlotScale::Tick> out;
    for (int power = -9; power <= 9; ++power)
        if (const double at = power * unit; at >= low - 1e-9 && at <= high + 1e-9)
            out.push_back({at, QString::number(std::pow(10.0, power), 'g', 7)});
    return out;
}

}  // namespace

LogPlot::LogPlot(const QString& accessible_name, const QString& x_title, const QString& y_title, Height height,
                 QWidget* parent)
    : PlotView(accessible_name, parent), x_title_(x_title), y_title_(y_title), height_(height) {
    setMinimumSize(180, 120);
}

void LogPlot::set_curves(std::vector<LogCurve> curves, std::vector<double> ticks) {
    curves_ = std::move(curves);
    ticks_ = std::move(ticks);
    update();
}

void LogPlot::clear(const QString& why) {
    curves_.clear();
    why_empty_ = why;
    set_head({}, {});
    update();
}

bool LogPlot::empty() const {
    return std::all_of(curves_.begin(), curves_.end(), [](const LogCurve& c) { return c.points.empty(); });
}

double LogPlot::height_of(double y) const { return height_ == Height::linear ? y : std::log10(std::max(1e-12, y)); }

QPointF LogPlot::place(const PlotArea& plot, const QPointF& point) const {
    return plot.at(std::log2(point.x()), height_of(point.y()));
}

std::pair<PlotScale, PlotScale> LogPlot::scales(const QSizeF& area) const {
    double left = 1e300, right = -1e300, low = 1e300, high = -1e300;
    for (const LogCurve& c : curves_)
        for (std::size_t i = 0; i < c.points.size(); ++i) {
            const double s = c.sigma.empty() ? 0 : c.sigma[i];
            left = std::min(left, std::log2(c.points[i].x()));
            right = std::max(right, std::log2(c.points[i].x()));
            low = std::min(low, height_of(c.points[i].y() - (height_ == Height::linear ? s : 0)));
            high = std::max(high, height_of(c.points[i].y() + s));
        }
    if (right - left < 1e-9) {
        left -= 1;
        right += 1;
    }
    PlotScale x{x_title_, left, right, {}};
    for (const double tick : ticks_) x.ticks.push_back({std::log2(tick), QString::number(tick, 'g', 6)});
    if (ticks_.empty()) x.ticks = powers_of_ten(left, right, std::log2(10.0));
    x.ticks = thinned(std::move(x.ticks), left, right, area.width());
    if (height_ == Height::linear) {
        const int ticks = std::clamp(static_cast<int>(area.height() / 34), 1, 6);
        low = std::min(low, 0.0);
        return {x, PlotScale::of(y_title_, round_range(low, high, 1e-3, ticks))};
    }
    return {x,
            PlotScale{y_title_, std::floor(low), std::ceil(high), powers_of_ten(std::floor(low), std::ceil(high), 1)}};
}

double LogPlot::right_room() const {
    std::vector<EndLabel> labels;
    for (const LogCurve& c : curves_)
        if (!c.points.empty()) labels.push_back({0, c.label, c.colour});
    return room_for_labels(labels);
}

void LogPlot::paint_data(QPainter& p, const PlotArea& plot) const {
    p.save();
    p.setClipRect(plot.box.adjusted(-5, -5, 5, 5));
    for (const LogCurve& c : curves_) {
        QPolygonF line;
        for (const QPointF& point : c.points) line << place(plot, point);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(c.colour, 1.5, c.dash));
        p.drawPolyline(line);
        if (c.sigma.empty()) continue;
        p.setPen(QPen(c.colour, 1.2));
        for (std::size_t i = 0; i < c.points.size(); ++i) {
            const QPointF up(c.points[i].x(), c.points[i].y() + c.sigma[i]),
                down(c.points[i].x(), c.points[i].y() - c.sigma[i]);
            p.drawLine(place(plot, up), place(plot, down));
        }
        p.setBrush(c.dash == Qt::SolidLine ? QBrush(c.colour) : QBrush(theme::paper));
        for (const QPointF& at : line) p.drawEllipse(at, 3, 3);
    }
    p.restore();
    std::vector<EndLabel> labels;
    for (const LogCurve& c : curves_)
        if (!c.points.empty()) labels.push_back({place(plot, c.points.back()).y(), c.label, c.colour});
    paint_end_labels(p, plot.box, std::move(labels));
}

QString LogPlot::hint_at(const QPointF& at) const {
    const double x = plot().value_at(at).x();
    QStringList lines;
    double nearest = 0;
    for (const LogCurve& c : curves_) {
        if (c.points.empty()) continue;
        const auto best = std::min_element(c.points.begin(), c.points.end(), [&](const QPointF& a, const QPointF& b) {
            return std::abs(std::log2(a.x()) - x) < std::abs(std::log2(b.x()) - x);
        });
        nearest = best->x();
        QString line = QString("%1: %2").arg(c.label).arg(best->y(), 0, 'g', 4);
        if (!c.sigma.empty())
            line += QString(" ± %1").arg(c.sigma[static_cast<std::size_t>(best - c.points.begin())], 0, 'g', 2);
        lines << line;
    }
    if (lines.isEmpty()) return {};
    return QString("%1 %2\n%3\n").arg(x_title_).arg(nearest, 0, 'g', 4).arg(y_title_) + lines.join('\n');
}

PlotView::Cells LogPlot::cells() const {
    Cells rows{{"curve", x_title_.toStdString(), y_title_.toStdString(), "one sigma"}};
    const auto figure = [](double v) { return QString::number(v, 'g', 8).toStdString(); };
    for (const LogCurve& c : curves_)
        for (std::size_t i = 0; i < c.points.size(); ++i)
            rows.push_back({c.label.toStdString(), figure(c.points[i].x()), figure(c.points[i].y()),
                            c.sigma.empty() ? "" : figure(c.sigma[i])});
    return rows;
}

}  // namespace optrel
