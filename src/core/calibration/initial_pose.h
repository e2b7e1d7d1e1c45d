// SPDX-License-Identifier: GPL-3.0-or-later
// The initial pose for a view of a flat board, from the homography of its corners (Zhang 2000), in viewing directions.
#pragma once

#include "calibration/bundle.h"

namespace optrel {

/// Pose of a view for an approximate lens. Corners are undistorted where the model reaches.
Pose initial_pose(const View& view, const LensSolution& lens);

}  // namespace optrel
