// SPDX-License-Identifier: GPL-3.0-or-later
// From a frame to a picture: the whole development, with everything that a baseline pins.
//
// Order: hot pixels, black and white level, white balance, falloff, demosaicing, noise reduction, the one resampling
// with the crop, fringe suppression, colour matrix or colour profile, exposure, auto levels, black point, channel mix
// or embedded tone curve, contrast, saturation, monochrome, sharpening, encoding.
#pragma once

#include <optional>

#include "base/progress.h"
#include "baselines/resolver.h"
#include "frames/colour_space.h"
#include "frames/picture.h"
#include "render/framing.h"

namespace optrel {

/// Encoding and size of a developed picture.
struct PictureForm {
    ColourSpace space = ColourSpace::srgb;
    int longest_side = 0;  ///< px; a larger picture is reduced to it by area means in linear light; 0: not reduced
};

struct Developed {
    cv::Mat3w rgb;                                    ///< encoded, red first; the area that the crop keeps
    double scale = 1;                                 ///< of the fill scale
    double reduced = 1;                               ///< pixels of the result per pixel of the crop
    cv::Matx33d camera_to_srgb = cv::Matx33d::eye();  ///< defines the camera's own space
    bool corrected = false;
    cv::Rect kept;  ///< the pixels of the corrected picture that the crop keeps
};

/// Develops a raw frame with resolved fields. Without a profile, only corrections by hand apply.
Developed develop(const RawPicture& raw, const CaptureGeometry& taken, const ResolvedFrame& fields,
                  const std::optional<AppliedProfile>& profile, const Progress& progress, const PictureForm& form = {});

/// The same correction, exposure and tone for a rendered picture in the linear form of read_rendered(). Throws
/// Error(input) when the camera's own colours are requested, which a rendered picture does not have.
Developed develop_rendered(const cv::Mat3f& linear, const CaptureGeometry& taken, const ResolvedFrame& fields,
                           const std::optional<AppliedProfile>& profile, const Progress& progress,
                           const PictureForm& form = {});

}  // namespace optrel
