// SPDX-License-Identifier: GPL-3.0-or-later
// How much copies of one lens model differ from one another, and so what the profile of one copy is worth for another.
//
// The model is a random effect: copy i sends the light of a place to m + e_i + n_i, with m common to the model, e_i the
// copy's own departure of variance t^2, and n_i the error of its measurement, whose variance s_i^2 its profile states.
// What a turn of the camera can do is taken out of all of them, as compare_nodes() does. From n copies the sample
// variance estimates t^2 + mean(s_i^2), so
//     t^2 = max(0, sample variance - mean(s_i^2))
// (the moment estimator of DerSimonian and Laird 1986, with equal weights). Its interval counts n - 1 degrees of
// freedom, as if the departures of a copy were one number: with few copies it is wide, and is meant to be.
#pragma once

#include <optional>
#include <utility>
#include <vector>

#include "optics/profile.h"

namespace optrel {

/// One sigma between copies. Those in px are RMS distances in the picture, both axes together.
struct CopySpread {
    int copies = 0;
    std::vector<Vec2> places;         ///< px of the geometry, a grid as far as all copies reach
    std::vector<double> at_place_px;  ///< beside them
    double rms_px = 0;                ///< RMS over the picture
    double largest_px = 0;            ///< largest over the picture
    double measured_px = 0;           ///< RMS of the differences that measurement errors alone explain
    /// 95 percent interval of rms_px.
    double low_px = 0, high_px = 0;
    std::optional<double> corner_ev;  ///< of the falloff in the corner, when at least two copies have one
    /// Of each copy, in the order given: RMS distance from the mean of the others, and one sigma of it, which is its
    /// own measurement, theirs, and the spread.
    std::vector<double> from_others_px, from_others_sigma_px;

    /// RMS distance of a copy that was not measured from the profile of one that was: root 2 times the spread.
    double one_for_another_px() const { return 1.4142135623730951 * rms_px; }
};

/// Spread of at least two copies at one lens setting. Throws Error(input) for fewer copies, or when the nodes have too
/// little of the picture in common.
CopySpread spread_of_copies(const std::vector<ProfileNode>& copies, const PictureGeometry& geometry);

/// Factors for a sample standard deviation with n - 1 = `freedom` degrees of freedom. Multiplied by them, it gives the
/// interval that contains the true value with this probability (chi-square distribution).
std::pair<double, double> deviation_interval(int freedom, double probability);

}  // namespace optrel
