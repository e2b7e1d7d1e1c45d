// SPDX-License-Identifier: GPL-3.0-or-later
// A first pose for a view of a flat board, from the homography of its corners (Zhang 2000), in viewing directions.
#pragma once

#include "calibration/bundle.h"

namespace optrel {

/// Pose of a view for a lens that may be rough. Corners are unbent where the model reaches.
Pose initial_pose(const View& view, const LensSolution& lens);

}  // namespace optrel
