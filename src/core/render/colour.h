// SPDX-License-Identifier: GPL-3.0-or-later
// White balance and the way from camera colours to linear sRGB.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
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

/// sRGB encoding of linear light in [0, 1] to 16 bits; anything else is clipped. Tabulated over the square root of
/// light, where the curve is nearly straight.
class SrgbEncoder {
public:
    SrgbEncoder();
    std::uint16_t operator()(float linear) const {
        const float at = std::sqrt(std::min(1.f, std::max(0.f, linear))) * entries;
        const int i = static_cast<int>(at);
        return static_cast<std::uint16_t>(table_[i] + (at - i) * (table_[i + 1] - table_[i]) + 0.5f);
    }

private:
    static constexpr int entries = 4096;
    std::array<float, entries + 2> table_;
};

}  // namespace optrel
