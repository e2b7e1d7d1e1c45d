// SPDX-License-Identifier: GPL-3.0-or-later
// From a frame to a picture: the whole development, with everything that a baseline pins.
//
// Order: hot pixels, black and white level, white balance, falloff, demosaicing, noise reduction, the one resampling
// with the crop, fringe suppression, colour matrix, exposure, auto levels, black point, channel mix or embedded tone
// curve, contrast, saturation, monochrome, sharpening, sRGB encoding.
#pragma once

#include <optional>

#include "base/progress.h"
#include "baselines/resolver.h"
#include "frames/picture.h"
#include "render/framing.h"

namespace optrel {

struct Developed {
    cv::Mat3w rgb;     ///< sRGB-encoded, red first; what the crop keeps
    double scale = 1;  ///< of the border
    bool corrected = false;
    cv::Rect kept;  ///< pixels of the corrected picture that the crop keeps
};

/// Develops a raw frame with resolved fields. Without a profile only what is set by hand is corrected.
Developed develop(const RawPicture& raw, const TakenWith& taken, const ResolvedFrame& fields,
                  const std::optional<AppliedProfile>& profile, const Progress& progress);

/// The same correction, exposure and tone for a rendered picture that was made linear by read_rendered().
Developed develop_rendered(const cv::Mat3f& linear, const TakenWith& taken, const ResolvedFrame& fields,
                           const std::optional<AppliedProfile>& profile, const Progress& progress);

}  // namespace optrel
