// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/cielab.h"

#include <algorithm>
#include <cmath>
#include <stdexcept>
#include <vector>

#include "frames/colour_space.h"

namespace optrel {

cv::Vec3d cielab(const cv::Vec3f& rgb) {
    static const cv::Matx33d to_xyz(0.4124564, 0.3575761, 0.1804375, 0.2126729, 0.7151522, 0.0721750, 0.0193339,
                                    0.1191920, 0.9503041);
    static const cv::Vec3d white = to_xyz * cv::Vec3d(1, 1, 1);
    const cv::Vec3d xyz = to_xyz * cv::Vec3d(std::max(0.f, rgb[0]), std::max(0.f, rgb[1]), std::max(0.f, rgb[2]));
    const auto f = [](double t) {
        constexpr double knee = 216.0 / 24389;
        return t > knee ? std::cbrt(t) : (24389.0 / 27 * t + 16) / 116;
    };
    const double x = f(xyz[0] / white[0]), y = f(xyz[1] / white[1]), z = f(xyz[2] / white[2]);
    return {116 * y - 16, 500 * (x - y), 200 * (y - z)};
}

ColourDifference colour_difference(const cv::Mat3w& before, const cv::Mat3w& after) {
    if (before.size() != after.size()) throw std::invalid_argument("pictures of different sizes");
    const std::vector<float>& light = srgb_light();
    const auto lab = [&](const cv::Vec3w& c) { return cielab({light[c[0]], light[c[1]], light[c[2]]}); };
    std::vector<double> all;
    all.reserve(before.total());
    for (int row = 0; row < before.rows; ++row)
        for (int i = 0; i < before.cols; ++i)
            all.push_back(before(row, i) == after(row, i) ? 0 : cv::norm(lab(before(row, i)) - lab(after(row, i))));
    ColourDifference out;
    if (all.empty()) return out;
    for (const double d : all) out.mean += d / static_cast<double>(all.size());
    const auto at = static_cast<std::ptrdiff_t>(0.95 * static_cast<double>(all.size() - 1));
    std::nth_element(all.begin(), all.begin() + at, all.end());
    out.p95 = all[static_cast<std::size_t>(at)];
    out.largest = *std::max_element(all.begin(), all.end());
    return out;
}

}  // namespace optrel
