// SPDX-License-Identifier: GPL-3.0-or-later
// Few curves, named where they end, with their uncertainty as bands.
#pragma once

#include <QColor>
#include <QPen>

#include "widgets/plot_view.h"

namespace optrel {

struct Curve {
    QString label;
    QColor colour;
    Qt::PenStyle dash = Qt::SolidLine;
    std::vector<QPointF> points;
    std::vector<double> sigma;  ///< one for each point, drawn as a band of one sigma; may be empty
};

class CurvePlot : public PlotView {
    Q_OBJECT
public:
    CurvePlot(const QString& accessible_name, const QString& x_title, const QString& y_title,
              QWidget* parent = nullptr);
    /// `y_least` is the smallest height of the y axis about its values, so that noise does not fill the plot.
    void set_curves(std::vector<Curve> curves, double x_low, double x_high, double y_least);

protected:
    bool empty() const override;
    std::pair<PlotScale, PlotScale> scales(const QSizeF& area) const override;
    void paint_data(QPainter& painter, const PlotArea& plot) const override;
    QString hint_at(const QPointF& at) const override;
    Cells cells() const override;
    double right_room() const override;

private:
    QString x_title_, y_title_;
    double x_low_ = 0, x_high_ = 1, y_least_ = 1;
    std::vector<Curve> curves_;
};

}  // namespace optrel
