// SPDX-License-Identifier: GPL-3.0-or-later
// Samples of a raw frame that are bright without light.
#pragma once

#include "frames/picture.h"

namespace optrel {

/// The counts with hot samples replaced: one that lies above the largest of its eight neighbours of the same colour by
/// more than six sigma of the noise there and by more than half of its own value becomes their median. The noise
/// (variance = a * signal + b) is measured on the frame. The picture itself is not changed.
cv::Mat1w without_hot_pixels(const RawPicture& raw);

}  // namespace optrel
