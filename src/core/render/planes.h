// SPDX-License-Identifier: GPL-3.0-or-later
// Three linear planes, the form in which a picture is developed.
#pragma once

#include <array>
#include <opencv2/core.hpp>

#include "base/parallel.h"

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

/// Calls body(first_row, end_row) for strips of rows on all cores.
template <class Body>
void for_strips(int rows, const Body& body) {
    constexpr int strip = 64;
    parallel_for((rows + strip - 1) / strip, [&](int i) { body(i * strip, std::min(rows, (i + 1) * strip)); });
}

}  // namespace optrel
