// SPDX-License-Identifier: GPL-3.0-or-later
// From the pixels of a frame to measured chart corners.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "base/progress.h"
#include "charts/chart.h"
#include "charts/corner_fit.h"
#include "frames/picture.h"

namespace optrel {

/// One corner of the chart: its place in the lattice and its position in each colour.
struct ChartCorner {
    int column = 0, row = 0;
    std::array<CornerFit, 3> channel;  ///< red, green, blue; green is always valid, red and blue may not be

    const CornerFit& green() const { return channel[static_cast<int>(Channel::green)]; }
};

struct ChartDetection {
    std::vector<ChartCorner> corners;  ///< empty: no chart
    int columns = 0, rows = 0;         ///< of inner corners that were seen
    bool whole_board = false;          ///< the lattice ends inside the picture on all four sides
    int rejected = 0;                  ///< lattice corners whose fit was poor
    double blur_px = 0;                ///< median
    double contrast = 0;               ///< median step from dark to bright, 1 = white level
    double clipped = 0;                ///< share of samples at the white level near corners
    bool identified = false;           ///< columns and rows are those of the board: 0, 0 is its top-left inner corner
    int markers = 0;                   ///< of a coded board, read
    bool mirrored = false;             ///< the markers can be read only in a mirror

    bool found() const { return !corners.empty(); }
};

/// Finds the board, whole or partly visible, and refines its corners in each colour. A lattice that is larger than the
/// chart is returned as it was found, so that the caller can report it. On a coded board the markers identify the
/// corners; when a coded board is expected and fewer than two markers agree, the result is not identified. Takes about
/// 0.3 s for 4 megapixels.
ChartDetection detect_chart(const MeasuringPicture& picture, const ChartSpec& chart, const Progress& progress);

}  // namespace optrel
