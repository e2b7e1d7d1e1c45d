// SPDX-License-Identifier: GPL-3.0-or-later
// A picture as 64 coarse means: enough to check that an account belongs to its picture, also after lossy
// compression.
#pragma once

#include <opencv2/core.hpp>
#include <string>

namespace optrel {

/// Means over 8 x 8 parts, in 255ths of the range, as hexadecimal digits, channel after channel. `picture` has 8 or 16
/// bits, or floats with white at 1, and one or three channels.
std::string sketch_of(const cv::Mat& picture);

/// The largest difference of two sketches, in 255ths; 255 for sketches of different kinds.
int sketch_difference(const std::string& a, const std::string& b);

/// Tolerance for two sketches of one picture: means of a strongly compressed JPEG change by this.
inline constexpr int same_sketch = 4;

}  // namespace optrel
