// SPDX-License-Identifier: GPL-3.0-or-later
// Where a lens setting lies among those that a profile was measured at: with what weight each counts, and what that
// leaves in doubt.
//
// Along the focal length, which changes a lens most, values v (displacements, falloff) are taken for a smooth function
// of x = ln f: a straight line plus a Gaussian process with the covariance exp(-(x - x')^2 / (2 l^2)), l = 0.9
// (universal kriging; Matheron 1969, Rasmussen and Williams 2006, section 2.7). Its mean is a weighted sum of the
// measured values, exact at them; the weights may be negative. How far it may be off follows from how unevenly the
// measured values themselves run, and, where they are few, from what a lens usually does: the slope changes by about
// its own size over a factor of e in focal length. Along the focus distance (dioptres) and the aperture (stops) values
// are linear between neighbours. Outside the measured range the nearest edge counts.
#pragma once

#include <vector>

#include "optics/profile.h"

namespace optrel {

/// A weighted sum over nodes: (index, weight).
using NodeSum = std::vector<std::pair<int, double>>;

struct PlacedSetting {
    NodeSum weights;  ///< add up to 1
    /// Independent errors of the weighted value. Each is a sum of node values by its weights, which add up to 0 (or
    /// represent a value itself when nothing else is known), times a standard normal number.
    std::vector<NodeSum> doubts;
    Placement placement = Placement::measured;
};

PlacedSetting place_setting(const std::vector<ProfileNode>& nodes, const LensSetting& at);

/// Whether two settings count as the same one in a profile.
bool same_setting(const LensSetting& a, const LensSetting& b);

/// Kriging along one axis: weights of the values at `x` for the place `at`, and combinations of unit variance that give
/// the error.
struct Kriged {
    std::vector<double> weights;
    std::vector<std::vector<double>> doubts;
};
Kriged krige(const std::vector<double>& x, double at);

}  // namespace optrel
