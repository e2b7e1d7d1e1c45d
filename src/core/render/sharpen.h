// SPDX-License-Identifier: GPL-3.0-or-later
// Unsharp masking of the luminance.
#pragma once

#include <cmath>

#include "render/planes.h"

namespace optrel {

/// Adds `amount_percent` of the difference d between the luminance and its Gaussian blur to all channels, weaker where
/// d is below the threshold t (percent of white): times d^2 / (d^2 + t^2). In place.
void sharpen(Planes& planes, double amount_percent, double radius_px, double threshold_percent);
/// Radius (px) of the neighbourhood that affects a place: the kernel of the blur.
inline int sharpening_reach(double radius_px) { return static_cast<int>(std::ceil(4 * radius_px)) + 1; }

}  // namespace optrel
