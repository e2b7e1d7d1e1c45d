// SPDX-License-Identifier: GPL-3.0-or-later
// Solving the frames of one lens setting.
#pragma once

#include <vector>

#include "calibration/run.h"

namespace optrel {

/// What solving one lens setting gave.
struct SolvedNode {
    ProfileNode node;
    NodeSolution solution;
    std::vector<FrameOutcome> outcomes;  ///< beside the chart frames given
    double held_out_rms_px = 0;
};

/// Solves chart frames of one lens setting; `previous`: quick start, keeping its model. Fringe included, falloff not.
/// Throws Error(input) when they cannot be solved.
SolvedNode solve_node(const std::vector<const RunFrame*>& charts, const PictureGeometry& geometry,
                      const SolveSettings& settings, const LensSolution* previous, const Progress& progress);

}  // namespace optrel
