// SPDX-License-Identifier: GPL-3.0-or-later
// One chart corner, magnified, on the samples of each colour, with the fitted position.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QWidget>
#include <array>

#include "calibration/run.h"
#include "frames/picture.h"

namespace optrel {

/// Samples of one colour around a corner.
struct CornerPatch {
    QImage samples;  ///< one pixel for each sample
    QPointF corner;  ///< in samples of the patch; the centre of sample (i, j) is at (i + 0.5, j + 0.5)
    double samples_per_px = 1;
};

/// Extracts patches of about `reach` px on each side; colours without a measurement give an empty patch.
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
