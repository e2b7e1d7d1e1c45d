// SPDX-License-Identifier: GPL-3.0-or-later
// Conversion between degrees and radians.
#pragma once
#include <numbers>

namespace optrel {

inline constexpr double pi = std::numbers::pi;
// One degree in radians: `30 * degree` converts to radians, `angle / degree` converts to degrees.
inline constexpr double degree = pi / 180;

}  // namespace optrel
