// SPDX-License-Identifier: GPL-3.0-or-later
// Curves over a logarithmic scale, as noise over ISO or over signal: measured points with one sigma, joined by lines,
// named where they end.
#pragma once

#include <QColor>
#include <QPen>

#include "widgets/plot_view.h"

namespace optrel {

struct LogCurve {
    QString label;
    QColor colour;
    Qt::PenStyle dash = Qt::SolidLine;
    std::vector<QPointF> points;  ///< ascending x, above 0
    std::vector<double> sigma;    ///< one for each point, of y; empty: a computed line without points
};

class LogPlot : public PlotView {
    Q_OBJECT
public:
    enum class Height { linear, logarithmic };
    LogPlot(const QString& accessible_name, const QString& x_title, const QString& y_title, Height height,
            QWidget* parent = nullptr);

    /// `ticks`: values of x that are labelled; empty: powers of ten.
    void set_curves(std::vector<LogCurve> curves, std::vector<double> ticks = {});
    void set_titles(const QString& left, const QString& right) {
        keep_head(true);
        set_head(left, right);
    }
    void clear(const QString& why);

protected:
    bool empty() const override;
    QString empty_text() const override { return why_empty_; }
    std::pair<PlotScale, PlotScale> scales(const QSizeF& area) const override;
    void paint_data(QPainter& painter, const PlotArea& plot) const override;
    QString hint_at(const QPointF& at) const override;
    Cells cells() const override;
    double right_room() const override;

private:
    double height_of(double y) const;
    QPointF place(const PlotArea& plot, const QPointF& point) const;

    QString x_title_, y_title_, why_empty_;
    Height height_;
    std::vector<LogCurve> curves_;
    std::vector<double> ticks_;
};

}  // namespace optrel
