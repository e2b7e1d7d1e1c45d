// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/hue_lookup.h"

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "frames/colour_space.h"
#include "render/hue_saturation.h"

namespace optrel {
namespace {

/// The two entries around a place, and the interpolation weight of the second.
struct About {
    int first, second;
    float part;
};

About around(float hue, int n) {  // 0 to 6, which is 0 again
    const float at = hue * static_cast<float>(n) / 6;
    const int i = std::min(n - 1, static_cast<int>(at));
    return {i, (i + 1) % n, at - static_cast<float>(i)};
}

About within(float share, int n) {
    if (n < 2) return {0, 0, 0};
    const float at = std::clamp(share, 0.f, 1.f) * static_cast<float>(n - 1);
    const int i = std::min(n - 2, static_cast<int>(at));
    return {i, i + 1, at - static_cast<float>(i)};
}

float grid_value(const HueTable& table, float value) {
    return table.encoded_value ? static_cast<float>(encode_light(ColourSpace::srgb, std::clamp(value, 0.f, 1.f)))
                               : value;
}

}  // namespace

cv::Vec3f look_up(const HueTable& table, const cv::Vec3f& rgb) {
    const cv::Vec3f hsv = hsv_of(cv::Vec3f(std::max(0.f, rgb[0]), std::max(0.f, rgb[1]), std::max(0.f, rgb[2])));
    const About h = around(hsv[0], table.hues), s = within(hsv[1], table.saturations),
                v = within(grid_value(table, hsv[2]), table.values);
    float shift = 0, saturation = 0, value = 0;
    const auto add = [&](int iv, int ih, int is, float weight) {
        const auto& e = table.entries[(static_cast<std::size_t>(iv) * table.hues + ih) * table.saturations + is];
        shift += weight * e[0];
        saturation += weight * e[1];
        value += weight * e[2];
    };
    for (const auto& [iv, wv] : {std::pair(v.first, 1 - v.part), std::pair(v.second, v.part)})
        for (const auto& [ih, wh] : {std::pair(h.first, 1 - h.part), std::pair(h.second, h.part)}) {
            if (wv * wh == 0) continue;
            add(iv, ih, s.first, wv * wh * (1 - s.part));
            add(iv, ih, s.second, wv * wh * s.part);
        }
    return rgb_of(hsv[0] + shift / 60, std::min(1.f, hsv[1] * saturation), hsv[2] * value);
}

HueTable between(const HueTable& first, const HueTable& second, double share) {
    if (first.hues != second.hues || first.saturations != second.saturations || first.values != second.values)
        throw input_error(
            "The hue tables of the two lights are of different sizes; the colour profile cannot be used.");
    HueTable out = first;
    const auto w = static_cast<float>(share);
    for (std::size_t i = 0; i < out.entries.size(); ++i)
        for (int k = 0; k < 3; ++k) out.entries[i][k] = (1 - w) * first.entries[i][k] + w * second.entries[i][k];
    return out;
}

HueKeepingCurve::HueKeepingCurve(const std::vector<std::pair<float, float>>& points) : table_(entries + 2) {
    const auto along = [&](float x) {
        if (x <= points.front().first) return points.front().second;
        if (x >= points.back().first) return points.back().second;
        const auto above =
            std::upper_bound(points.begin(), points.end(), x, [](float v, const auto& p) { return v < p.first; });
        const auto below = above - 1;
        return below->second + (x - below->first) / (above->first - below->first) * (above->second - below->second);
    };
    for (int i = 0; i <= entries + 1; ++i) {
        const float root = static_cast<float>(i) / entries;
        table_[static_cast<std::size_t>(i)] = along(root * root);
    }
    const auto &last = points.back(), &before = points[points.size() - 2];
    beyond_ = (last.second - before.second) / (last.first - before.first);
}

float HueKeepingCurve::at(float light) const {
    if (light <= 0) return table_.front();
    if (light >= 1) return table_[entries] + beyond_ * (light - 1);
    const float place = std::sqrt(light) * entries;
    const auto i = static_cast<std::size_t>(place);
    return table_[i] + (place - static_cast<float>(i)) * (table_[i + 1] - table_[i]);
}

cv::Vec3f HueKeepingCurve::operator()(const cv::Vec3f& rgb) const {
    int high = 0, low = 0;
    for (int i = 1; i < 3; ++i) {
        if (rgb[i] > rgb[high]) high = i;
        if (rgb[i] <= rgb[low]) low = i;
    }
    cv::Vec3f out;
    out[high] = at(rgb[high]);
    if (rgb[high] == rgb[low]) return {out[high], out[high], out[high]};
    out[low] = at(rgb[low]);
    const int middle = 3 - high - low;
    out[middle] = out[low] + (out[high] - out[low]) * (rgb[middle] - rgb[low]) / (rgb[high] - rgb[low]);
    return out;
}

}  // namespace optrel
