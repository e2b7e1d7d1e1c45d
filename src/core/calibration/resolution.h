// SPDX-License-Identifier: GPL-3.0-or-later
// The resolution field of a lens: every edge between two squares of a chart frame that stands at a slant is one
// measurement of MTF50.
#pragma once

#include <string>
#include <vector>

#include "base/progress.h"
#include "charts/detect.h"
#include "optics/resolution.h"

namespace optrel {

struct ResolutionField {
    std::vector<ResolutionPoint> points;
    int edges = 0;                                     ///< between squares, seen; each colour of one is a measurement
    std::vector<std::pair<std::string, int>> refused;  ///< why measurements were not made, how often
};

/// Of one frame whose chart was found.
ResolutionField measure_resolution(const MeasuringPicture& picture, const ChartDetection& chart, const ChartSpec& spec,
                                   const Progress& progress);

}  // namespace optrel
