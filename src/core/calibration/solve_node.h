// SPDX-License-Identifier: GPL-3.0-or-later
// Solving the frames of one lens setting.
#pragma once

#include <vector>

#include "calibration/run.h"

namespace optrel {

/// Result for one lens setting.
struct SolvedNode {
    ProfileNode node;
    NodeSolution solution;
    std::vector<FrameOutcome> outcomes;  ///< in the order of the given chart frames
    double held_out_rms_px = 0;
};

/// Solves chart frames of one lens setting, with lateral chromatic aberration, without falloff; `previous`: a fast
/// start that keeps its model. Throws Error(input) when they cannot be solved.
SolvedNode solve_node(const std::vector<const RunFrame*>& charts, const PictureGeometry& geometry,
                      const SolveSettings& settings, const LensSolution* previous, const Progress& progress);

}  // namespace optrel
