// SPDX-License-Identifier: GPL-3.0-or-later
// Views of a board through a lens of any formula, with corners that are off by noise of a known size: truth without
// pictures.
#pragma once

#include <functional>
#include <random>
#include <vector>

#include "calibration/bundle.h"
#include "optics/profile.h"

namespace optrel::test {

/// Ideal camera coordinates to px in the frame.
using TrueLens = std::function<Vec2(const Vec2&)>;

/// What a lens may have beside its distortion, in the forms that simulators and makers write them down.
struct LensTruth {
    double focal_px = 3700;
    Vec2 centre = {1232, 820};
    double k1 = 0, k2 = 0, k3 = 0;  ///< polynomial in r^2
    double p1 = 0, p2 = 0;          ///< tangential (Conrady 1919)
    double tilt_x = 0, tilt_y = 0;  ///< of the sensor against the lens, radians
    double division = 0;            ///< not 0: r / (1 + division r^2) first, which no polynomial is

    Vec2 operator()(const Vec2& xy) const;
};

/// 2464 x 1640 px.
PictureGeometry exact_geometry();

/// Boards of 14 x 9 corners (30 mm) in the middle, at the edges and in the corners, most of them tilted; each corner is
/// off by normal noise of `sigma_px` on each axis, and says so.
std::vector<View> exact_views(const TrueLens& lens, const LensTruth& about, double sigma_px, unsigned seed,
                              int views = 13);

/// How far a mapping is from the truth, up to what a turn of the camera or a plane homography of the scene can do.
struct MappingError {
    double rms_px = 0, largest_px = 0;
    double normalised = 0;  ///< RMS of the error over its stated sigma, per axis: 1 where the sigma is honest
};
/// Over a grid of the ideal picture as far as `within` of the half-diagonal.
MappingError mapping_error(const Profile& profile, const PlacedNode& placed, const TrueLens& truth,
                           const LensTruth& about, double within = 1.0);

/// A profile of one node from a solution.
Profile profile_of(const LensSolution& lens, const PictureGeometry& geometry, double misfit_px = 0);

}  // namespace optrel::test
