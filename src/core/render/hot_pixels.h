// SPDX-License-Identifier: GPL-3.0-or-later
// Replaces hot samples of a raw frame.
#pragma once

#include "frames/picture.h"

namespace optrel {

/// The counts with hot samples replaced: a sample that exceeds the largest of its eight neighbours of the same colour
/// by more than six sigma of the noise and by more than half of its own value becomes their median. The noise (variance
/// = a * signal + b) is measured on the frame. Returns a copy.
cv::Mat1w without_hot_pixels(const RawPicture& raw);

}  // namespace optrel
