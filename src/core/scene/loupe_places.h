// SPDX-License-Identifier: GPL-3.0-or-later
// The nine places at which a picture is enlarged: the corners, the middles of the edges, and the middle.
#pragma once

#include <algorithm>
#include <opencv2/core.hpp>

namespace optrel {

inline constexpr int loupe_count = 9;

/// The middle of a patch at one of these places, counted row by row, px: 4 percent inside the edges, and completely in
/// the picture where there is room.
inline cv::Point2d loupe_middle(int loupe, const cv::Size2d& picture, const cv::Size2d& patch) {
    const auto at = [](int third, double length, double part) {
        const double shares[] = {0.04 * length + part / 2, length / 2, 0.96 * length - part / 2};
        return std::clamp(shares[third], std::min(part, length) / 2, std::max(length - part / 2, length / 2));
    };
    return {at(loupe % 3, picture.width, patch.width), at(loupe / 3, picture.height, patch.height)};
}

}  // namespace optrel
