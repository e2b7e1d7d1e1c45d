// SPDX-License-Identifier: GPL-3.0-or-later
// The resolution field of a lens: each slanted edge between two squares of a chart frame gives one measurement of
// MTF50.
#pragma once

#include <string>
#include <vector>

#include "base/progress.h"
#include "charts/detect.h"
#include "optics/resolution.h"

namespace optrel {

struct ResolutionField {
    std::vector<ResolutionPoint> points;
    int edges = 0;  ///< visible edges between squares; each colour of an edge is a measurement
    std::vector<std::pair<std::string, int>> refused;  ///< reasons why measurements were refused, with their numbers
};

/// Measures one frame whose chart was found.
ResolutionField measure_resolution(const MeasuringPicture& picture, const ChartDetection& chart, const ChartSpec& spec,
                                   const Progress& progress);

}  // namespace optrel
