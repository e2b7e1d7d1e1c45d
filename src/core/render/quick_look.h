// SPDX-License-Identifier: GPL-3.0-or-later
// A small picture of a frame, made quickly for orientation, not for judging quality.
#pragma once

#include <filesystem>
#include <opencv2/core.hpp>

#include "frames/picture.h"

namespace optrel {

/// Half the size of a raw frame (one pixel per 2 x 2 of the mosaic), brightened so that the 99th percentile is near
/// white.
cv::Mat3b quick_look(const RawPicture& raw);

/// The same from a raw or rendered file, in the rows and columns of the sensor. Throws Error(input).
cv::Mat3b quick_look(const OpenedFrame& frame);

}  // namespace optrel
