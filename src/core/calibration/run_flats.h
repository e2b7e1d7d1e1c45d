// SPDX-License-Identifier: GPL-3.0-or-later
// The flat fields of a run: groups them, leaves out unsuitable ones, and computes the falloff of each lens setting.
#pragma once

#include <vector>

#include "base/progress.h"
#include "calibration/run.h"

namespace optrel {

/// The lens settings that some frames record, in the order of `index`.
std::vector<LensSetting> settings_of(const std::vector<RunFrame>& frames, const std::vector<int>& index);

/// Gives every node of the solution its falloff from the flats of its focal length and aperture. Flats that differ from
/// the others or are unevenly lit are left out with a reason. When none is left, the white squares of the charts give
/// an estimate, which is marked.
void add_falloff(const std::vector<RunFrame>& frames, RunSolution& out, const Progress& progress);

}  // namespace optrel
