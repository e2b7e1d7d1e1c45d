// SPDX-License-Identifier: GPL-3.0-or-later
// The circle: radians of a degree.
#pragma once
#include <numbers>

namespace optrel {

inline constexpr double pi = std::numbers::pi;
// In radians: `30 * degree` is an angle, `angle / degree` is a figure in degrees.
inline constexpr double degree = pi / 180;

}  // namespace optrel
