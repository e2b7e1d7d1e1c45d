// SPDX-License-Identifier: GPL-3.0-or-later
// Finds a patch chart in a picture by its dark frame and its grid.
#pragma once

#include <array>
#include <opencv2/core.hpp>
#include <optional>
#include <vector>

#include "frames/picture.h"
#include "patches/chart_file.h"

namespace optrel {

/// A place after a homography.
cv::Point2d through(const cv::Matx33d& homography, double x, double y);

/// Where a chart lies in a frame.
struct ChartPlace {
    cv::Matx33d to_frame;         ///< cells of the chart (A1 from (0, 0) to (1, 1)) to px of the frame
    double score = 0;             ///< contrast of the patches against their surround, over their own spread
    double correlation = 0;       ///< of the patches with the reference colours (R^2 of a linear map), 0 to 1
    double next_correlation = 0;  ///< of the next best turn
    int quarter_turns = 0;        ///< of the chart against the frame, clockwise
};

/// Searches the frame for the chart, also turned and tilted; the turn is that whose patches agree best with the
/// reference. Empty when no dark frame with such a grid is seen.
std::optional<ChartPlace> find_chart(const MeasuringPicture& picture, const PatchChart& chart);

/// The place by the outer corners of the grid, in px: those of A1, of the last column, of the last patch, of the last
/// row.
ChartPlace place_by_corners(const MeasuringPicture& picture, const PatchChart& chart,
                            const std::array<cv::Point2d, 4>& corners);

}  // namespace optrel
