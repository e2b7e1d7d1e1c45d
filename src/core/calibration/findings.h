// SPDX-License-Identifier: GPL-3.0-or-later
// What a technician should know about a run, in plain words: a figure, its limit, a remedy.
#pragma once

#include "calibration/run.h"

namespace optrel {

/// Fills coverage, largest covered field height and largest radius of a node.
void measure_coverage(const std::vector<View>& views, const PictureGeometry& geometry, ProfileNode& node);

/// Fills how straight the rows and columns of the board are before and after correction; a fisheye's are not corrected
/// to lines.
void measure_straightness(const std::vector<View>& views, const PictureGeometry& geometry, ProfileNode& node);

/// Adds to the solution's findings what speaks against it: figure, limit, remedy. The serious ones become the
/// profile's.
void judge(const std::vector<RunFrame>& frames, const SolveSettings& settings, RunSolution& solution);

}  // namespace optrel
