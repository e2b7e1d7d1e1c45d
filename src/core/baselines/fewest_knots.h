// SPDX-License-Identifier: GPL-3.0-or-later
// Ramps with as few knots as follow given values.
#pragma once

#include <utility>
#include <vector>

namespace optrel {

/// Chooses knots among points (ISO, value), ascending, so that a ramp through them, which is linear in log2(ISO),
/// misses no point by more than `relative` of its value or `absolute`, whichever is larger. First and last point are
/// always knots, unless all values lie within the tolerance of the first: then one knot remains. No smaller number of
/// knots would do.
std::vector<std::pair<double, double>> fewest_knots(const std::vector<std::pair<double, double>>& points,
                                                    double relative, double absolute);

}  // namespace optrel
