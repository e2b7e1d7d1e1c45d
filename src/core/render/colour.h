// SPDX-License-Identifier: GPL-3.0-or-later
// White balance and the way from camera colours to linear sRGB.
#pragma once

#include <array>
#include <opencv2/core.hpp>

#include "frames/picture.h"

namespace optrel {

/// Camera values of a neutral patch in light of a colour temperature (Krystek 1985 for the Planckian locus, 1000 to
/// 15000 K) and a tint: 100 shifts v (CIE 1960) by 0.02. Green is 1.
std::array<double, 3> neutral_of(const RawPicture& raw, double kelvin, double tint);

/// The light in which a neutral patch has these camera values: the inverse of neutral_of(), by Newton's method on the
/// reciprocal temperature and the tint, within 2000 to 15000 K and 150 of tint.
struct Illuminant {
    double kelvin = 5500, tint = 0;
};
Illuminant illuminant_of(const RawPicture& raw, const std::array<double, 3>& neutral);

/// Factors that make a neutral patch grey; the smallest is 1.
std::array<double, 3> white_balance_multipliers(const std::array<double, 3>& neutral);

/// White-balanced camera colours to linear sRGB (IEC 61966-2-1 primaries); grey stays grey.
cv::Matx33f camera_to_srgb(const RawPicture& raw);

}  // namespace optrel
