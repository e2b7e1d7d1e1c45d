// SPDX-License-Identifier: GPL-3.0-or-later
// Perceived difference of two colours.
#pragma once

#include <opencv2/core.hpp>

namespace optrel {

/// CIE 1976 L*a*b* of linear sRGB, for white D65 (CIE 15:2018). Negative light counts as zero.
cv::Vec3d cielab(const cv::Vec3f& linear_srgb);

/// The differences of two pictures of one size, encoded in sRGB with 16 bits, in units of CIELAB (CIE 1976).
struct ColourDifference {
    double mean = 0, p95 = 0, largest = 0;
};
/// Throws std::invalid_argument for pictures of different sizes.
ColourDifference colour_difference(const cv::Mat3w& before, const cv::Mat3w& after);

}  // namespace optrel
