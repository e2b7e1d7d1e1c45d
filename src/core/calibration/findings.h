// What a technician should know about a run, in plain words: a figure, its limit, a remedy.
#pragma once

#include "calibration/run.h"

namespace optrel {

/// Fills coverage, largest covered field height and largest radius of a node.
void measure_coverage(const std::vector<View>& views, const PictureGeometry& geometry, ProfileNode& node);

std::vector<Finding> judge(const std::vector<RunFrame>& frames, const RunSolution& solution, const PictureGeometry& geometry);

}  // namespace optrel
