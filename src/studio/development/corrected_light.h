// SPDX-License-Identifier: GPL-3.0-or-later
// Corrected pictures for measurements.
#pragma once

#include <opencv2/core.hpp>

#include "frames/picture.h"
#include "render/prepared_frame.h"
#include "studio/development/frame_development.h"

namespace optrel {

/// Linear light of a part of the corrected picture, before tone curve and sharpening. Positions are px of the whole
/// picture.
MeasuringPicture corrected_light(const PreparedFrame& prepared, const FrameDevelopment& delivery, const cv::Rect& part,
                                 const Progress& progress);

}  // namespace optrel
