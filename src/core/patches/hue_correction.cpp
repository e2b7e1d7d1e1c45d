// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/hue_correction.h"

#include <algorithm>
#include <cmath>

#include "render/colour.h"
#include "render/hue_saturation.h"

namespace optrel {
namespace {

/// Saturation at which half of the correction counts.
constexpr double half_saturation = 0.12;

}  // namespace

cv::Vec3d HueCorrection::operator()(const cv::Vec3d& xyz) const {
    static const cv::Matx33d to_romm = xyz_d50_to_romm(), from_romm = to_romm.inv();
    const cv::Vec3d rgb = to_romm * xyz;
    const cv::Vec3d hsv = hsv_of(rgb);
    if (hsv[2] <= 0 || hsv[1] <= 0) return xyz;
    const double at = hsv[0] * node_count / 6, share = at - std::floor(at),
                 weight = hsv[1] / (hsv[1] + half_saturation);
    const Node& a = nodes[static_cast<std::size_t>(at) % node_count];
    const Node& b = nodes[(static_cast<std::size_t>(at) + 1) % node_count];
    const auto between = [&](double Node::*of) { return weight * ((1 - share) * a.*of + share * b.*of); };
    const double hue = hsv[0] + between(&Node::shift) / 60;
    // Colours beyond the edge of ROMM keep how far they lie beyond it.
    const double saturation = hsv[1] * std::exp(between(&Node::saturation));
    const double kept = hsv[1] <= 1 ? std::min(1.0, saturation) : saturation;
    return from_romm * rgb_of(hue, kept, hsv[2] * std::exp(between(&Node::value)));
}

}  // namespace optrel
