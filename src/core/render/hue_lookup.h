// SPDX-License-Identifier: GPL-3.0-or-later
// Hue tables and tone curves of colour profiles, on linear ROMM RGB (DNG specification 1.6, tags ProfileHueSatMapData,
// ProfileLookTableData and ProfileToneCurve).
#pragma once

#include <opencv2/core.hpp>
#include <utility>
#include <vector>

#include "frames/colour_profile.h"

namespace optrel {

/// Moves one colour as a table says: in hue, saturation and value, trilinear between the entries about it; hue goes
/// around, saturation and value stop at the table's ends. Negative light counts as none. What the table makes is not
/// clipped, but for a saturation of more than 1.
cv::Vec3f look_up(const HueTable& table, const cv::Vec3f& rgb);

/// A table between two others of the same size, `share` of the way to the second. Throws Error(input) for two of
/// different sizes.
HueTable between(const HueTable& first, const HueTable& second, double share);

/// A tone curve that keeps the hue: on the largest and the smallest value, with the middle one as far between them as
/// it was. Above 1 the curve goes on with its last slope.
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
