// SPDX-License-Identifier: GPL-3.0-or-later
// The light on the white squares of a board, for a second-best falloff where there is no flat field.
#pragma once

#include <vector>

#include "charts/detect.h"

namespace optrel {

struct WhitePatch {
    Vec2 uv;  ///< middle of the square, px
    Channel channel;
    double mean;  ///< 1 = white level
};

/// Mean light over the inner half of each white square whose four corners were measured, on each plane. Squares that
/// touch the white level, and squares of coded boards (their markers are in the way), give nothing.
std::vector<WhitePatch> measure_whites(const MeasuringPicture& picture, const ChartDetection& detection);

}  // namespace optrel
