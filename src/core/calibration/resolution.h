// SPDX-License-Identifier: GPL-3.0-or-later
// The resolution field of a lens: every edge between two squares of a chart frame that stands at a slant is one
// measurement of MTF50.
#pragma once

#include <string>
#include <vector>

#include "base/progress.h"
#include "charts/detect.h"
#include "scene/slanted_edge.h"

namespace optrel {

/// Along which lines detail is resolved: radial lines (sagittal), lines about the centre (tangential), or neither.
enum class LineRun { sagittal, tangential, oblique };
std::string to_string(LineRun run);

struct ResolutionPoint {
    Vec2 place = Vec2::Zero();  ///< px of the frame
    double height = 0;          ///< field height
    Channel channel = Channel::green;
    LineRun run = LineRun::oblique;
    double angle_deg = 0;  ///< of the edge against the rows, 0 to 180
    double mtf50 = 0, sigma = 0;
};

struct ResolutionField {
    std::vector<ResolutionPoint> points;
    int edges = 0;                                     ///< between squares, seen; each colour of one is a measurement
    std::vector<std::pair<std::string, int>> refused;  ///< why measurements were not made, how often
};

/// Of one frame whose chart was found.
ResolutionField measure_resolution(const MeasuringPicture& picture, const ChartDetection& chart, const ChartSpec& spec,
                                   const Progress& progress);

/// The mean of what was measured in a zone, weighed by its sigmas; nothing measured: count 0.
struct ResolutionMean {
    int count = 0;
    double mtf50 = 0;
    double sigma = 0;   ///< of the mean, from the spread
    double spread = 0;  ///< one sigma of single measurements
};
ResolutionMean mean_resolution(const std::vector<ResolutionPoint>& points, Channel channel, LineRun run,
                               double lowest_height, double highest_height);

}  // namespace optrel
