// SPDX-License-Identifier: GPL-3.0-or-later
// From a frame to a picture: the whole development, with everything that a baseline pins.
//
// Order: hot pixels, black and white level, white balance, falloff, demosaicing, noise reduction, the one resampling,
// fringe suppression, colour matrix, exposure, auto levels, black point, channel mix or embedded tone curve, contrast,
// saturation, monochrome, sharpening, sRGB encoding.
#pragma once

#include <filesystem>
#include <optional>

#include "base/progress.h"
#include "baselines/resolver.h"
#include "frames/picture.h"
#include "optics/frame_map.h"

namespace optrel {

/// A profile's node that applies to the frame.
struct AppliedProfile {
    ProfileNode node;
    PictureGeometry reference;
};

struct Developed {
    cv::Mat3w rgb;     ///< sRGB-encoded, red first
    double scale = 1;  ///< of the border
    bool corrected = false;
};

/// Develops a raw frame with resolved fields. Without a profile nothing is corrected, but a pinned border scale still
/// holds.
Developed develop(const RawPicture& raw, double pitch_um, const ResolvedFrame& fields,
                  const std::optional<AppliedProfile>& profile, const Progress& progress);

/// The same correction, exposure and tone for a rendered picture that was made linear by read_rendered().
Developed develop_rendered(const cv::Mat3f& linear, double pitch_um, const ResolvedFrame& fields,
                           const std::optional<AppliedProfile>& profile, const Progress& progress);

}  // namespace optrel
