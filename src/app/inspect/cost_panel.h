// SPDX-License-Identifier: GPL-3.0-or-later
// What the correction of a frame costs: how far it pulls samples apart, place by place, and what lifting the corners
// clips.
#pragma once

#include <QLabel>

#include "optics/picture_view.h"
#include "render/light_distribution.h"
#include "widgets/curve_plot.h"
#include "widgets/table.h"

namespace optrel {

/// The local stretch over the picture, cell by cell, with its scale.
class StretchMap : public PlotView {
    Q_OBJECT
public:
    StretchMap() : PlotView("Local stretch over the picture") { keep_head(true); }
    /// Null for nothing. `orientation`: Exif; the map lies as the picture is held.
    void set_view(const PictureView* view, int orientation);

protected:
    bool empty() const override { return cells_.empty(); }
    std::pair<PlotScale, PlotScale> scales(const QSizeF& area) const override;
    void paint_data(QPainter& painter, const PlotArea& plot) const override;
    QString hint_at(const QPointF& at) const override;
    Cells cells() const override;

private:
    struct Spot {
        double share_x, share_y;  ///< of the picture as it is held, the middle of the cell
        double area_percent;      ///< change of the area
    };
    static constexpr int across = 24, down = 16;
    QSizeF size_;
    double low_ = 0, high_ = 0;
    std::vector<Spot> cells_;
};

class CostPanel : public QWidget {
    Q_OBJECT
public:
    explicit CostPanel(QWidget* parent = nullptr);
    void show_stretch(const PictureView& view, int orientation);
    void show_light(const LightDistribution& light);
    void clear();
    Table& table() { return *table_; }
    QString clipped() const { return clipped_->text(); }

private:
    StretchMap* map_;
    Table* table_;
    CurvePlot* light_;
    QLabel* clipped_;
};

}  // namespace optrel
