// SPDX-License-Identifier: GPL-3.0-or-later
// A row of bars: a histogram, or one bar for each frame, of which one can be chosen.
#pragma once

#include "widgets/plot_view.h"

namespace optrel {

struct Bar {
    QString label;  ///< below the bar; may be empty
    double value = 0;
    QString hint;  ///< on hover
    bool faint = false;
};

class BarsView : public PlotView {
    Q_OBJECT
public:
    BarsView(const QString& accessible_name, const QString& x_title, const QString& y_title, QWidget* parent = nullptr);
    void set_bars(std::vector<Bar> bars, int chosen = -1);
    void choose(int bar);
    int count() const { return static_cast<int>(bars_.size()); }
    /// The middle of a bar, for tests that click.
    QPoint middle_of(int bar) const;

signals:
    void bar_clicked(int bar);

protected:
    bool empty() const override { return bars_.empty(); }
    std::pair<PlotScale, PlotScale> scales(const QSizeF& area) const override;
    void paint_data(QPainter& painter, const PlotArea& plot) const override;
    QString hint_at(const QPointF& at) const override;
    Cells cells() const override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    int bar_at(const QPointF& at) const;

    QString x_title_, y_title_;
    std::vector<Bar> bars_;
    int chosen_ = -1;
};

}  // namespace optrel
