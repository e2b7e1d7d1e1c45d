// SPDX-License-Identifier: GPL-3.0-or-later
// The geometry of one frame as determined by its fields and its profile.
#pragma once

#include <opencv2/core.hpp>
#include <optional>

#include "baselines/resolver.h"
#include "optics/inside_crop.h"
#include "optics/picture_view.h"

namespace optrel {

/// The node of a profile that applies to a frame.
struct AppliedProfile {
    ProfileNode node;
    PictureGeometry reference;
};

/// Metadata of the capture that the geometry depends on.
struct CaptureGeometry {
    double pitch_um = 0;
    double focal_mm = 0;  ///< 0: unknown; perspective then assumes a focal length equal to the picture's diagonal
    int orientation = 1;  ///< Exif; angles, shifts and crops refer to the picture as displayed

    CaptureGeometry(double pitch) : pitch_um(pitch) {}
    CaptureGeometry(double pitch, double focal, int held) : pitch_um(pitch), focal_mm(focal), orientation(held) {}
};

/// All values refer to rows and columns of the sensor.
struct Framing {
    PictureView view;
    bool corrected = false;  ///< by a profile
    bool moves = false;      ///< positions change, so the picture is resampled
    bool fringes = false;    ///< red and blue are aligned with green
    cv::Rect kept = {};      ///< the pixels of the corrected picture that the crop keeps
};

/// The mapping by lens, profile and correction by hand, without the turn of the camera.
FrameMap lens_of(const ResolvedFrame& fields, const std::optional<AppliedProfile>& profile,
                 const PictureGeometry& geometry, double focal_mm);

/// Throws Error(input) when the angles bring the horizon into the picture, when no scale fills it, or when the crop is
/// empty.
Framing framing_of(const ResolvedFrame& fields, const std::optional<AppliedProfile>& profile, const cv::Size& size,
                   const CaptureGeometry& taken);

}  // namespace optrel
