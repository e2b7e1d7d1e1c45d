// SPDX-License-Identifier: GPL-3.0-or-later
// What the fields and a profile mean for the geometry of one frame.
#pragma once

#include <opencv2/core.hpp>
#include <optional>

#include "baselines/resolver.h"
#include "optics/inside_crop.h"
#include "optics/picture_view.h"

namespace optrel {

/// A profile's node that applies to the frame.
struct AppliedProfile {
    ProfileNode node;
    PictureGeometry reference;
};

/// How a frame was taken, as far as its geometry asks for it.
struct CaptureGeometry {
    double pitch_um = 0;
    double focal_mm = 0;  ///< 0: not known; perspective is then computed as of a lens as long as the picture's diagonal
    int orientation = 1;  ///< Exif: angles, shifts and crops are those of the picture as it is held

    CaptureGeometry(double pitch) : pitch_um(pitch) {}
    CaptureGeometry(double pitch, double focal, int held) : pitch_um(pitch), focal_mm(focal), orientation(held) {}
};

/// Everything here is in the sensor's rows and columns.
struct Framing {
    PictureView view;
    bool corrected = false;  ///< by a profile
    bool moves = false;      ///< places differ from those of the frame, so that there is a resampling
    bool fringes = false;    ///< red and blue are brought to green's place
    cv::Rect kept = {};      ///< pixels of the corrected picture that remain
};

/// What lens, profile and hand do to a frame, without the camera's turn.
FrameMap lens_of(const ResolvedFrame& fields, const std::optional<AppliedProfile>& profile,
                 const PictureGeometry& geometry, double focal_mm);

/// Throws Error(input) where the angles bring the horizon into the picture, where no scale fills it, or where a crop
/// would keep nothing.
Framing framing_of(const ResolvedFrame& fields, const std::optional<AppliedProfile>& profile, const cv::Size& size,
                   const CaptureGeometry& taken);

}  // namespace optrel
