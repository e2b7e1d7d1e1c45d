// SPDX-License-Identifier: GPL-3.0-or-later
// Three linear planes, the form of a picture during development.
#pragma once

#include <algorithm>
#include <array>
#include <opencv2/core.hpp>

namespace optrel {

/// Red, green, blue; 1 = white level. Values may be below 0 (noise around black) and above 1 (after falloff
/// correction).
struct Planes {
    std::array<cv::Mat1f, 3> channel;

    Planes() = default;
    explicit Planes(cv::Size size) {
        for (cv::Mat1f& c : channel) c.create(size);
    }
    cv::Size size() const { return channel[0].size(); }
};

/// Positions of the samples of planes in a picture: sample (i, j) covers the square of `step` px around (left + (i +
/// 1/2) step, top + (j + 1/2) step).
struct Sampling {
    double left = 0, top = 0, step = 1;
    cv::Size size;

    /// Every pixel of a picture.
    static Sampling all_of(cv::Size size) { return {0, 0, 1, size}; }
    /// An area, reduced so that its longer side has at most `longest` px; one that is smaller keeps its size.
    static Sampling reduced(const cv::Rect& area, int longest) {
        const double step = std::max(1.0, double(std::max(area.width, area.height)) / longest);
        const cv::Size size(std::max(1, static_cast<int>(area.width / step)),
                            std::max(1, static_cast<int>(area.height / step)));
        return {double(area.x), double(area.y), step, size};
    }
};

}  // namespace optrel
