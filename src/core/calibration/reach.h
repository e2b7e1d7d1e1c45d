// SPDX-License-Identifier: GPL-3.0-or-later
// The radius that a picture needs from a solved lens, and whether the lens reaches it.
#pragma once

#include <cmath>

#include "calibration/bundle.h"

namespace optrel {

/// The largest bent radius that a picture needs, in camera coordinates.
inline double farthest_bent(const LensSolution& lens, const PictureGeometry& geometry) {
    const Vec2 far = (lens.centre_px - geometry.middle()).cwiseAbs() + geometry.middle();
    return far.norm() / lens.focal_px;
}

/// True when the mapping folds back inside the picture, which would tear it.
inline bool folds(const LensSolution& lens, const PictureGeometry& geometry) {
    const double turn = lens.model.monotonic_radius();
    return std::isfinite(turn) && lens.model.bent_radius(turn) <= farthest_bent(lens, geometry);
}

}  // namespace optrel
