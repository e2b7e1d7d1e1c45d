// SPDX-License-Identifier: GPL-3.0-or-later
// Refining one corner on the samples of one colour, where they were taken.
//
// Model (a blurred saddle): with q = p - corner, edges along the unit vectors e1, e2 with normals n1, n2,
//
//   I(p) = (base + amplitude * erf(d1 / (sqrt(2) sigma)) * erf(d2 / (sqrt(2) sigma))) * (1 + slope . q)
//   dk   = nk . q - curvature_k / 2 * (ek . q)^2
//
// The curvature of the edges (distortion bends them) is given, not fitted: the neighbours in the lattice tell it far
// better. Model and truth are both point-symmetric about the corner, so a blur of another symmetric shape does not move
// the result.
#pragma once

#include <Eigen/Core>
#include <vector>

#include "frames/picture.h"

namespace optrel {

struct CornerGuess {
    Vec2 position;                          ///< px
    Vec2 edge1, edge2;                      ///< unit vectors along the two edges
    double curvature1 = 0, curvature2 = 0;  ///< 1/px
    double half_length = 10;                ///< samples along the edges are used up to this distance, px
    double blur_px = 1;
    double band_limit = 1e9;  ///< samples farther than this from both edges are not used, px
};

struct CornerFit {
    bool ok = false;
    Vec2 position = Vec2::Zero();
    Eigen::Matrix2d covariance = Eigen::Matrix2d::Zero();  ///< px^2, one sigma, from the residuals
    Vec2 edge1 = Vec2::Zero(), edge2 = Vec2::Zero();
    double blur_px = 0;    ///< sigma, pixel aperture included
    double amplitude = 0;  ///< half the step from dark to bright, 1 = white level
    double base = 0;
    double residual = 0;  ///< RMS over amplitude
    double clipped = 0;   ///< share of the samples at the white level
};

/// Weighted least squares (Levenberg 1944; Marquardt 1963) over the planes of one channel. Variances of bright and dark
/// samples are estimated separately, because photon noise makes them differ.
CornerFit fit_corner(const std::vector<const SamplePlane*>& planes, const CornerGuess& guess);

}  // namespace optrel
