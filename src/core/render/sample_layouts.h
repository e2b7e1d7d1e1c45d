// SPDX-License-Identifier: GPL-3.0-or-later
// The light of raw frames of every layout: Bayer, 6 x 6, monochrome, interpolated.
#pragma once

#include "frames/picture.h"
#include "optics/frame_map.h"
#include "render/demosaic.h"
#include "render/planes.h"

namespace optrel {

/// Three linear planes of a part of a frame, from counts (those of the picture, or repaired ones), as linear_mosaic()
/// describes. `map`: displacement of red and blue, which only a Bayer mosaic is aligned by; null: none. All three
/// planes of a monochrome frame are equal.
Planes linear_planes(const RawPicture& raw, const cv::Mat1w& counts, const std::array<double, 3>& multiplier,
                     const GainTable* gains, const FrameMap* map, const cv::Rect& part);

/// Means over cells of `cell` px (even), with equal positions for all planes and without falloff correction. The
/// displacement of red and blue is not corrected. Incomplete cells at the right and bottom are dropped.
Planes light_in_cells(const RawPicture& raw, const cv::Mat1w& counts, const std::array<double, 3>& multiplier,
                      int cell);

}  // namespace optrel
