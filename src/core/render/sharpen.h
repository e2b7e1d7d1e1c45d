// SPDX-License-Identifier: GPL-3.0-or-later
// Unsharp masking of the luminance.
#pragma once

#include <cmath>
#include <vector>

#include "render/planes.h"

namespace optrel {

struct Sharpening {
    double amount_percent = 0, radius_px = 0.8, threshold_percent = 0;
    /// A threshold (share of white) for each brightness from 0 to 1, evenly; the larger threshold counts. Empty: none.
    std::vector<float> threshold_at;
};

/// Adds the amount of the difference d between the luminance and its Gaussian blur to all channels, weaker where d is
/// below the threshold t: times d^2 / (d^2 + t^2). In place.
void sharpen(Planes& planes, const Sharpening& sharpening);

/// The difference from its blur that sharpening adds, as it is before any threshold. `grey`: luminance from 0 to 1.
struct SharpeningDetail {
    cv::Mat1f grey, blurred;
};
SharpeningDetail sharpening_detail(const Planes& planes, double radius_px);

/// Radius (px) of the neighbourhood that affects a place: the kernel of the blur.
inline int sharpening_reach(double radius_px) { return static_cast<int>(std::ceil(4 * radius_px)) + 1; }

}  // namespace optrel
