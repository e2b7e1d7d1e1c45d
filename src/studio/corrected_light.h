// SPDX-License-Identifier: GPL-3.0-or-later
// A corrected picture as something to measure in.
#pragma once

#include <opencv2/core.hpp>

#include "frames/picture.h"
#include "render/prepared_frame.h"
#include "studio/frame_development.h"

namespace optrel {

/// The linear light of a part of the corrected picture, before tones and sharpening; places are px of the whole.
MeasuringPicture corrected_light(const PreparedFrame& prepared, const FrameDevelopment& delivery, const cv::Rect& part,
                                 const Progress& progress);

}  // namespace optrel
