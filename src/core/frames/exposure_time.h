// SPDX-License-Identifier: GPL-3.0-or-later
// The exposure time of a frame.
#pragma once

#include "frames/opened_frame.h"

namespace optrel {

/// Seconds (Exif tag ExposureTime); 0 when it is not recorded or the file cannot be read.
double exposure_time(const OpenedFrame& frame);

}  // namespace optrel
