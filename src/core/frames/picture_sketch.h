// SPDX-License-Identifier: GPL-3.0-or-later
// A picture in 64 coarse means: enough to tell whether an account belongs to the picture that it stands in, also after
// a lossy format has touched the values.
#pragma once

#include <opencv2/core.hpp>
#include <string>

namespace optrel {

/// Means over 8 x 8 parts, in 255ths of the range, as hexadecimal figures; channels one after the other. `picture` has
/// 8 or 16 bits, or floats of which 1 is white, and one channel or three.
std::string sketch_of(const cv::Mat& picture);

/// The largest difference of two sketches, in 255ths; 255 for sketches of different kinds.
int sketch_difference(const std::string& a, const std::string& b);

/// What two sketches of one picture may differ by: a mean of a strongly compressed JPEG moves by that.
inline constexpr int same_sketch = 4;

}  // namespace optrel
