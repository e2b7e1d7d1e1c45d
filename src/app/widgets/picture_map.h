// SPDX-License-Identifier: GPL-3.0-or-later
// One quantity over the picture, part by part, pale to dark, with its scale.
#pragma once

#include <functional>

#include "widgets/plot_view.h"

namespace optrel {

class PictureMap : public PlotView {
    Q_OBJECT
public:
    explicit PictureMap(const QString& accessible_name) : PlotView(accessible_name) { keep_head(true); }

    struct Part {
        int column, row;
        double value;
    };
    struct Look {
        QString quantity;                     ///< with its unit
        std::function<QString(double)> said;  ///< a value with its unit
        bool written = false;                 ///< the values stand in the parts
        double least_range = 0;               ///< the tints span at least so much
    };
    /// A picture of `size` px in `across` by `down` parts; parts without a value stay blank.
    void show_parts(const QSizeF& size, int across, int down, std::vector<Part> parts, Look look);
    void clear(const QString& why = {});

protected:
    bool empty() const override { return parts_.empty(); }
    QString empty_text() const override { return why_empty_.isEmpty() ? PlotView::empty_text() : why_empty_; }
    std::pair<PlotScale, PlotScale> scales(const QSizeF& area) const override;
    void paint_data(QPainter& painter, const PlotArea& plot) const override;
    QString hint_at(const QPointF& at) const override;
    Cells cells() const override;

private:
    /// The middle of a part, px of the picture.
    QPointF middle(const Part& part) const;

    QSizeF size_;
    int across_ = 1, down_ = 1;
    double low_ = 0, high_ = 0;
    std::vector<Part> parts_;
    Look look_;
    QString why_empty_;
};

}  // namespace optrel
