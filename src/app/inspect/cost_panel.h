// SPDX-License-Identifier: GPL-3.0-or-later
// Cost of a frame's correction: local magnification, and highlights clipped by the brightened corners.
#pragma once

#include <QLabel>

#include "optics/picture_view.h"
#include "optics/stretch.h"
#include "render/light_distribution.h"
#include "widgets/curve_plot.h"
#include "widgets/picture_map.h"
#include "widgets/table.h"

namespace optrel {

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
    PictureMap* map_;
    struct StretchedPlace {
        const char* name;
        std::optional<Stretch> stretch;  ///< nothing: the corrected picture is empty there
    };
    TableOf<StretchedPlace>* table_;
    CurvePlot* light_;
    QLabel* clipped_;
};

}  // namespace optrel
