// SPDX-License-Identifier: GPL-3.0-or-later
// Three linear planes, the form in which a picture is developed.
#pragma once

#include <array>
#include <opencv2/core.hpp>

namespace optrel {

/// Red, green, blue; 1 = white level, values may lie below 0 (noise about black) and above 1 (falloff undone).
struct Planes {
    std::array<cv::Mat1f, 3> channel;

    Planes() = default;
    explicit Planes(cv::Size size) {
        for (cv::Mat1f& c : channel) c.create(size);
    }
    cv::Size size() const { return channel[0].size(); }
};

/// Where the samples of planes lie in a picture: sample (i, j) stands for the square of `step` px about (left + (i +
/// 1/2) step, top + (j + 1/2) step).
struct Sampling {
    double left = 0, top = 0, step = 1;
    cv::Size size;

    /// Every pixel of a picture.
    static Sampling all_of(cv::Size size) { return {0, 0, 1, size}; }
};

}  // namespace optrel
