// SPDX-License-Identifier: GPL-3.0-or-later
// A plot that could be printed: axes with units, few lines labelled where they end, uncertainty bands, values on hover,
// copy as CSV, save as SVG.
#pragma once

#include <QChartView>
#include <vector>

namespace optrel {

struct Curve {
    QString label;
    QColor colour;
    Qt::PenStyle dash = Qt::SolidLine;
    std::vector<QPointF> points;
    std::vector<double> sigma;  ///< one for each point, drawn as a band of one sigma; may be empty
    bool knots = false;         ///< mark the points
};

class CurvePlot : public QChartView {
    Q_OBJECT
public:
    CurvePlot(const QString& accessible_name, const QString& x_title, const QString& y_title,
              QWidget* parent = nullptr);
    /// `y_least` is the smallest height of the y axis about its values, so that noise does not fill the plot.
    void set_curves(std::vector<Curve> curves, double x_low, double x_high, double y_least);
    /// Labels of the x axis at their values; without them a quarter of the range each.
    void set_x_labels(std::vector<std::pair<double, QString>> labels);
    void set_y_title(const QString& title);
    QString as_csv() const;
    bool save_svg(const QString& path);

protected:
    void mouseMoveEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

private:
    void place_labels();
    void draw();
    void clear();
    void say_nothing();
    std::pair<double, double> range() const;
    void add_axes();
    void add_series(QAbstractSeries* series);
    void add_curve(const Curve& curve);
    /// As many ticks as the height has room for; fewer rather than figures that are cut.
    int ticks() const;

    QString x_title_, y_title_;
    double x_low_ = 0, x_high_ = 1, y_least_ = 1;
    int ticks_ = 4;
    QGraphicsSimpleTextItem* nothing_ = nullptr;
    std::vector<Curve> curves_;
    std::vector<QGraphicsSimpleTextItem*> labels_;
    std::vector<std::pair<double, QString>> x_labels_;
};

}  // namespace optrel
