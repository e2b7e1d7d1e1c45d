// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/hue_correction.h"

#include <algorithm>
#include <cmath>

#include "render/colour.h"

namespace optrel {
namespace {

/// Saturation at which half of the correction counts.
constexpr double half_saturation = 0.12;

}  // namespace

cv::Vec3d hsv_of(const cv::Vec3d& rgb) {
    const double high = std::max({rgb[0], rgb[1], rgb[2]}), low = std::min({rgb[0], rgb[1], rgb[2]}), span = high - low;
    if (span <= 0 || high <= 0) return {0, 0, high};
    double hue = 0;
    if (high == rgb[0])
        hue = (rgb[1] - rgb[2]) / span;
    else if (high == rgb[1])
        hue = 2 + (rgb[2] - rgb[0]) / span;
    else
        hue = 4 + (rgb[0] - rgb[1]) / span;
    return {60 * (hue < 0 ? hue + 6 : hue), span / high, high};
}

cv::Vec3d rgb_of(double hue, double saturation) {
    const double h = hue / 60, f = h - std::floor(h), p = 1 - saturation, q = 1 - saturation * f,
                 t = 1 - saturation * (1 - f);
    switch (static_cast<int>(h) % 6) {
        case 0: return {1, t, p};
        case 1: return {q, 1, p};
        case 2: return {p, 1, t};
        case 3: return {p, q, 1};
        case 4: return {t, p, 1};
        default: return {1, p, q};
    }
}

cv::Vec3d HueCorrection::operator()(const cv::Vec3d& xyz) const {
    static const cv::Matx33d to_romm = xyz_d50_to_romm(), from_romm = to_romm.inv();
    const cv::Vec3d rgb = to_romm * xyz;
    const cv::Vec3d hsv = hsv_of(rgb);
    if (hsv[2] <= 0 || hsv[1] <= 0) return xyz;
    const double at = hsv[0] * node_count / 360, share = at - std::floor(at),
                 weight = hsv[1] / (hsv[1] + half_saturation);
    const Node& a = nodes[static_cast<std::size_t>(at) % node_count];
    const Node& b = nodes[(static_cast<std::size_t>(at) + 1) % node_count];
    const auto between = [&](double Node::*of) { return weight * ((1 - share) * a.*of + share * b.*of); };
    double hue = std::fmod(hsv[0] + between(&Node::shift) + 720, 360);
    if (hue >= 360) hue = 0;
    // Colours beyond the edge of ROMM keep how far they lie beyond it.
    const double saturation = hsv[1] * std::exp(between(&Node::saturation));
    const double kept = hsv[1] <= 1 ? std::min(1.0, saturation) : saturation;
    return from_romm * (rgb_of(hue, kept) * (hsv[2] * std::exp(between(&Node::value))));
}

}  // namespace optrel
