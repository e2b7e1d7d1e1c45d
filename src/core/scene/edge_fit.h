// SPDX-License-Identifier: GPL-3.0-or-later
// Fits one edge of a scene to the original samples of one colour. Nothing is interpolated, so the pixel grid causes no
// bias.
#pragma once

#include <Eigen/Core>
#include <cmath>
#include <vector>

#include "frames/picture.h"

namespace optrel {

/// A sample by its position along the edge (from its middle) and across it, px.
struct EdgeSample {
    double along, across, value;
};
/// The samples of one colour within `half_width` px of the line between two places.
std::vector<EdgeSample> samples_along(const MeasuringPicture& picture, Channel channel, const Vec2& from,
                                      const Vec2& to, double half_width);

/// The feature along the line: a border between dark and light, or a thin line that is darker or brighter than its
/// surround.
enum class EdgeShape { step, ridge };

/// A step or ridge, blurred by a Gaussian along a bowed line: low level, high level (of a ridge: surround and crest),
/// position of the line in three terms, logarithm of the blur.
struct StepFit {
    EdgeShape shape = EdgeShape::step;
    Eigen::Matrix<double, 6, 1> p = Eigen::Matrix<double, 6, 1>::Zero();
    double half_length = 1;
    double rms = 0;  ///< of the residuals

    double step() const { return p(1) - p(0); }
    double blur() const { return std::exp(p(5)); }
    /// Position across (px) at a position along.
    double place(double along) const {
        const double s = along / half_length;
        return p(2) + s * (p(3) + s * p(4));
    }
};
/// Least squares by the method of Levenberg and Marquardt.
StepFit fit_step(const std::vector<EdgeSample>& samples, double half_length, double half_width,
                 EdgeShape shape = EdgeShape::step);

/// Positions of the edge (along, across) in pieces of a given length, with the blur of the whole. Levels and position
/// of each piece are free. Pieces whose fit does not converge near the line are left out.
std::vector<Vec2> places_of_pieces(const std::vector<EdgeSample>& samples, const StepFit& fit, double piece_px);

}  // namespace optrel
