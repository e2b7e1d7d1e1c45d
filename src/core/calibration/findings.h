// SPDX-License-Identifier: GPL-3.0-or-later
// Findings of a run for the technician: a figure, its limit and a remedy, in plain words.
#pragma once

#include "calibration/run.h"

namespace optrel {

/// Computes coverage, the largest covered field height and the largest radius of a node.
void measure_coverage(const std::vector<View>& views, const PictureGeometry& geometry, ProfileNode& node);

/// Computes the straightness of the board's rows and columns before and after correction; not for fisheyes, whose lines
/// are not corrected to straight ones.
void measure_straightness(const std::vector<View>& views, const PictureGeometry& geometry, ProfileNode& node);

/// Adds findings against the solution: figure, limit, remedy. Serious ones are copied to the
/// profile.
void judge(const std::vector<RunFrame>& frames, const SolveSettings& settings, RunSolution& solution);

}  // namespace optrel
