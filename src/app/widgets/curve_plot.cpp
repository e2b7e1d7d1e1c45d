// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/curve_plot.h"

#include <QPainter>
#include <QPolygonF>
#include <algorithm>
#include <cmath>

#include "base/figure_text.h"
#include "theme.h"
#include "widgets/end_labels.h"
#include "window_words.h"

namespace optrel {
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
    std::vector<EndLabel> labels;
    for (const Curve& c : curves_)
        if (!c.points.empty()) labels.push_back({0, c.label, c.colour});
    return room_for_labels(labels);
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
    std::vector<EndLabel> labels;
    for (const Curve& c : curves_)
        if (!c.points.empty())
            labels.push_back({plot.at(c.points.back().x(), c.points.back().y()).y(), c.label, c.colour});
    paint_end_labels(p, plot.box, std::move(labels));
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
        QString line = c.label + ": " + q(number_text(figures::plotted, a.y() + t * (b.y() - a.y())));
        if (!c.sigma.empty()) line += " ± " + q(number_text(figures::plotted, c.sigma[i]));
        lines << line;
    }
    if (lines.isEmpty()) return {};
    return x_title_ + " " + q(number_text(figures::ratio, x)) + "\n" + lines.join('\n');
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
