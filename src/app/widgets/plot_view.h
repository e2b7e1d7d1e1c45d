// SPDX-License-Identifier: GPL-3.0-or-later
// What all plots of the window have in common: paper, axes with units and round figures, a sentence where there is
// nothing to show, values on hover, copy as CSV, save as SVG. A kind of plot says what stands between the axes.
#pragma once

#include <QWidget>
#include <string>
#include <vector>

#include "base/ticks.h"

namespace optrel {

/// A scale along one side of a plot.
struct PlotScale {
    struct Tick {
        double at;
        QString text;
    };
    QString title;
    double low = 0, high = 1;
    std::vector<Tick> ticks;

    double share(double value) const { return (value - low) / (high - low); }
    double value(double share) const { return low + share * (high - low); }
    /// Ticks at every multiple of the step.
    static PlotScale of(const QString& title, const RoundRange& range);
};

/// The area between the axes, with its scales.
struct PlotArea {
    PlotScale x, y;
    QRectF box;  ///< px of the widget

    QPointF at(double x_value, double y_value) const {
        return {box.left() + x.share(x_value) * box.width(), box.bottom() - y.share(y_value) * box.height()};
    }
    QPointF value_at(const QPointF& place) const {
        return {x.value((place.x() - box.left()) / box.width()), y.value((box.bottom() - place.y()) / box.height())};
    }
};

class PlotView : public QWidget {
    Q_OBJECT
public:
    explicit PlotView(const QString& accessible_name, QWidget* parent = nullptr);

    /// The axes as they would be drawn now.
    PlotArea plot() const;
    QString as_csv() const;
    /// Writes the plot as it is shown, in place of nothing but a drawing of ours. False when it cannot be written,
    /// which is told beside the plot.
    bool save_svg(const QString& path);

protected:
    using Cells = std::vector<std::vector<std::string>>;

    // What a kind of plot says of itself. The scales are asked for anew each time.
    virtual bool empty() const = 0;
    /// The scales for an area of about this size in pixels.
    virtual std::pair<PlotScale, PlotScale> scales(const QSizeF& area) const = 0;
    virtual void paint_data(QPainter& painter, const PlotArea& plot) const = 0;
    virtual QString hint_at(const QPointF& at) const = 0;
    /// The values with a line of titles.
    virtual Cells cells() const = 0;
    /// Room on the right of the plot, px.
    virtual double right_room() const { return 14; }
    virtual QString empty_text() const;

    /// Lines above the plot, left and right; room is kept for them when `keep_head` is set.
    void set_head(const QString& left, const QString& right);
    void keep_head(bool keep) { head_kept_ = keep; }

    void paintEvent(QPaintEvent*) final;
    void contextMenuEvent(QContextMenuEvent* event) final;
    /// Shows the hint. Kinds that do more with the mouse call this where they do not.
    void mouseMoveEvent(QMouseEvent* event) override;

private:
    void paint_axes(QPainter& painter, const PlotArea& plot) const;

    QString head_left_, head_right_;
    bool head_kept_ = false;
};

/// The grid's colour.
QColor plot_grid();

}  // namespace optrel
