// SPDX-License-Identifier: GPL-3.0-or-later
// Measures the light on the white squares of a board, for a falloff estimate when there is no flat field.
#pragma once

#include <vector>

#include "charts/detect.h"

namespace optrel {

struct WhitePatch {
    Vec2 uv;  ///< middle of the square, px
    Channel channel;
    double mean;  ///< 1 = white level
};

/// Mean light over the inner half of each white square whose four corners were measured, for each plane. Clipped
/// squares and squares with markers (coded boards) are left out.
std::vector<WhitePatch> measure_whites(const MeasuringPicture& picture, const ChartDetection& detection);

}  // namespace optrel
