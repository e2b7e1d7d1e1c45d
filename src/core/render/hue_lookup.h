// SPDX-License-Identifier: GPL-3.0-or-later
// Hue tables and tone curves of colour profiles, on linear ROMM RGB (DNG specification 1.6, tags ProfileHueSatMapData,
// ProfileLookTableData and ProfileToneCurve).
#pragma once

#include <opencv2/core.hpp>
#include <utility>
#include <vector>

#include "frames/colour_profile.h"

namespace optrel {

/// Applies a table to one colour: shifts hue, saturation and value by trilinear interpolation; hue wraps
/// around, saturation and value are clamped to the table. Negative light counts as zero. Only saturation is
/// limited, to 1.
cv::Vec3f look_up(const HueTable& table, const cv::Vec3f& rgb);

/// Interpolates between two tables of the same size; `share`: weight of the second. Throws Error(input) for different
/// sizes.
HueTable between(const HueTable& first, const HueTable& second, double share);

/// A tone curve that keeps the hue: it is applied to the largest and the smallest value, and the middle one keeps its
/// relative position between them. Above 1 the curve continues with its last slope.
class HueKeepingCurve {
public:
    explicit HueKeepingCurve(const std::vector<std::pair<float, float>>& points);
    cv::Vec3f operator()(const cv::Vec3f& rgb) const;

private:
    float at(float light) const;

    static constexpr int entries = 4096;
    std::vector<float> table_;  ///< over the square root of light, 0 to 1
    float beyond_ = 1;          ///< slope above 1
};

}  // namespace optrel
