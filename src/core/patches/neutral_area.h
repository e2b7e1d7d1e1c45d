// SPDX-License-Identifier: GPL-3.0-or-later
// White balance from an area that is grey: a grey card, or foliage for a body that sees infrared.
#pragma once

#include <array>
#include <opencv2/core.hpp>

#include "frames/picture.h"
#include "patches/neutral_offsets.h"

namespace optrel {

struct NeutralArea {
    std::array<double, 3> neutral{1, 1, 1};  ///< camera values of the area, over green
    std::array<double, 3> neutral_sigma{};   ///< relative, one sigma, from the scatter of blocks of 16 x 16 px
    NeutralOffsets offsets;                  ///< over what the frame records
    /// How far warmth and tint miss the area's red or blue, as a share: more than nothing for light that no temperature
    /// from 2000 to 15000 K and no tint within 150 describes.
    double missed = 0;
};

/// `area`: px of the frame. Throws Error(input) when the area is not inside the frame, is smaller than 32 px each way,
/// holds clipped samples, is darker than a hundredth of the white level, or when the sensor has no colours.
/// `matrices` are those by which warmth and tint will be applied: of the frame, or of the colour profile in use.
NeutralArea neutral_of_area(const RawPicture& raw, const cv::Rect& area, const CameraMatrices& matrices);
/// With the frame's own matrices.
NeutralArea neutral_of_area(const RawPicture& raw, const cv::Rect& area);

}  // namespace optrel
