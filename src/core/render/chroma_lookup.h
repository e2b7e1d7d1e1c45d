// SPDX-License-Identifier: GPL-3.0-or-later
// A table in place of a conversion of colours that does not depend on brightness: f(k c) = k f(c).
#pragma once

#include <algorithm>
#include <functional>
#include <opencv2/core.hpp>
#include <vector>

namespace optrel {

class ChromaLookup {
public:
    /// `convert` maps linear RGB to linear RGB. Negative components are treated as zero.
    explicit ChromaLookup(const std::function<cv::Vec3f(const cv::Vec3f&)>& convert);

    /// Interpolates between chromaticities that lie 1/256 apart.
    cv::Vec3f operator()(const cv::Vec3f& rgb) const {
        const float r = std::max(0.f, rgb[0]), g = std::max(0.f, rgb[1]), b = std::max(0.f, rgb[2]);
        const float sum = r + g + b;
        if (sum <= 0) return {0, 0, 0};
        const float x = r / sum * steps, y = g / sum * steps;
        const int i = std::min(steps - 1, static_cast<int>(x)), j = std::min(steps - 1, static_cast<int>(y));
        const float u = x - static_cast<float>(i), v = y - static_cast<float>(j);
        const cv::Vec3f* at = &entries_[static_cast<std::size_t>(j) * (steps + 1) + static_cast<std::size_t>(i)];
        const cv::Vec3f* below = at + steps + 1;
        const float a = (1 - u) * (1 - v) * sum, c = u * (1 - v) * sum, d = (1 - u) * v * sum, e = u * v * sum;
        return {a * at[0][0] + c * at[1][0] + d * below[0][0] + e * below[1][0],
                a * at[0][1] + c * at[1][1] + d * below[0][1] + e * below[1][1],
                a * at[0][2] + c * at[1][2] + d * below[0][2] + e * below[1][2]};
    }

private:
    static constexpr int steps = 256;
    std::vector<cv::Vec3f> entries_;  ///< over green (rows) and red, as shares of the sum
};

}  // namespace optrel
