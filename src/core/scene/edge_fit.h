// SPDX-License-Identifier: GPL-3.0-or-later
// One edge of a scene, fitted to the samples of one colour where they were taken: nothing is interpolated, so the
// pixels' grid does not pull the edge.
#pragma once

#include <Eigen/Core>
#include <cmath>
#include <vector>

#include "frames/picture.h"

namespace optrel {

/// A sample by where it lies along the edge, from its middle, and across it, px.
struct EdgeSample {
    double along, across, value;
};
/// Those within `half_width` px to either side of the line between two places, of one colour.
std::vector<EdgeSample> samples_along(const MeasuringPicture& picture, Channel channel, const Vec2& from,
                                      const Vec2& to, double half_width);

/// What lies along the line: the border between dark and light, or a thin line darker or brighter than its surround.
enum class EdgeShape { step, ridge };

/// A step, or a ridge, blurred by a Gaussian along a line with a bow: low, high (of a ridge: its surround and its
/// crest), the line's place in three terms, log of the blur.
struct StepFit {
    EdgeShape shape = EdgeShape::step;
    Eigen::Matrix<double, 6, 1> p = Eigen::Matrix<double, 6, 1>::Zero();
    double half_length = 1;
    double rms = 0;  ///< of the residuals

    double step() const { return p(1) - p(0); }
    double blur() const { return std::exp(p(5)); }
    /// Px across, at a place along.
    double place(double along) const {
        const double s = along / half_length;
        return p(2) + s * (p(3) + s * p(4));
    }
};
/// Least squares by Gauss and Newton's method with a Marquardt term.
StepFit fit_step(const std::vector<EdgeSample>& samples, double half_length, double half_width,
                 EdgeShape shape = EdgeShape::step);

/// Where the edge lies (along, across) in pieces of a length each, with the blur of the whole: light, dark and place of
/// each piece are its own. Pieces in which the fit does not settle near the line are left out.
std::vector<Vec2> places_of_pieces(const std::vector<EdgeSample>& samples, const StepFit& fit, double piece_px);

}  // namespace optrel
