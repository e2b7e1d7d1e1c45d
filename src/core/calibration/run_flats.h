// SPDX-License-Identifier: GPL-3.0-or-later
// The flat fields of a run: which belong together, which are none, and the falloff that each lens setting gets of them.
#pragma once

#include <vector>

#include "base/progress.h"
#include "calibration/run.h"

namespace optrel {

/// The lens settings that some frames record, in the order of `index`.
std::vector<LensSetting> settings_of(const std::vector<RunFrame>& frames, const std::vector<int>& index);

/// Gives every node of the solution its falloff from the flats of its focal length and aperture. Flats that are another
/// picture than the others, or unevenly lit, are left out with the reason; where none is left, the white squares of the
/// charts serve, marked as second best.
void add_falloff(const std::vector<RunFrame>& frames, RunSolution& out, const Progress& progress);

}  // namespace optrel
