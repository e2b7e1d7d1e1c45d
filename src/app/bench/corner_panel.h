// SPDX-License-Identifier: GPL-3.0-or-later
// One corner, magnified on each colour's own samples, with the place that the fit found.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QWidget>
#include <array>

#include "calibration/run.h"
#include "frames/picture.h"

namespace optrel {

/// The samples about a corner on one colour.
struct CornerPatch {
    QImage samples;  ///< one pixel for each sample
    QPointF corner;  ///< in samples of the patch, the middle of sample (i, j) at (i + 0.5, j + 0.5)
    double samples_per_px = 1;
};

/// Cuts patches of about `reach` px to either side; colours that were not measured give an empty one.
std::array<CornerPatch, 3> cut_patches(const MeasuringPicture& picture, const ChartCorner& corner, double reach);

class CornerPanel : public QWidget {
    Q_OBJECT
public:
    explicit CornerPanel(QWidget* parent = nullptr);
    void show_corner(const ChartCorner& corner, const ViewPoint* point, const std::array<CornerPatch, 3>& patches,
                     bool dropped);

signals:
    void drop_clicked();

protected:
    void paintEvent(QPaintEvent*) override;

private:
    std::array<CornerPatch, 3> patches_;
    ChartCorner corner_;
    QLabel* text_;
    QPushButton* drop_;
};

}  // namespace optrel
