// SPDX-License-Identifier: GPL-3.0-or-later
// A quick small picture of a frame, for finding one's way; never for judging.
#pragma once

#include <filesystem>
#include <opencv2/core.hpp>

#include "frames/picture.h"

namespace optrel {

/// Half the size of a raw frame (one pixel for each 2 x 2 of the mosaic), brightened so that the 99th percentile is
/// near white.
cv::Mat3b quick_look(const RawPicture& raw);

/// The same of a file, raw or rendered, in the sensor's own rows and columns. Throws Error(input).
cv::Mat3b quick_look(const OpenedFrame& frame);

}  // namespace optrel
