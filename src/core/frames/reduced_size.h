// SPDX-License-Identifier: GPL-3.0-or-later
// The size of a picture that is reduced.
#pragma once

#include <algorithm>
#include <opencv2/core.hpp>

namespace optrel {

/// The longer side has at most `longest` px; a smaller picture, or 0, is not changed.
inline cv::Size reduced_size(const cv::Size& size, int longest_side) {
    const int longest = std::max(size.width, size.height);
    if (longest_side <= 0 || longest <= longest_side) return size;
    const double factor = double(longest_side) / longest;
    return {std::max(1, cvRound(size.width * factor)), std::max(1, cvRound(size.height * factor))};
}

}  // namespace optrel
