// SPDX-License-Identifier: GPL-3.0-or-later
// The noise that sharpening would raise, at each brightness of the finished picture.
#pragma once

#include <array>
#include <vector>

#include "baselines/resolver.h"
#include "frames/picture.h"
#include "render/tone.h"

namespace optrel {

/// True when the fields give a sharpening threshold in sigmas.
bool sharpens_above_noise(const ResolvedFrame& fields);

/// How linear light becomes the picture that is sharpened.
struct SharpenedPicture {
    cv::Matx33f matrix;
    ToneSettings tone;   ///< with automatic levels already computed
    double reduced = 1;  ///< scale of a reduced picture
    /// Of the frame's body, see RawPicture::noise; estimated_noise() where that was not measured.
    std::array<double, 6> noise{};
};

/// The noise of a frame by itself, in the form of RawPicture::noise.
std::array<double, 6> estimated_noise(const RawPicture& raw);

/// One sigma of the difference between luminance and blur that noise causes, as a share of white, for each brightness
/// from 0 to 1, evenly. A grey with that noise goes through noise reduction and tones as the frame does. The light of
/// the optical axis counts: corners that falloff correction brightened have more noise.
std::vector<float> sharpening_noise(const RawPicture& raw, const ResolvedFrame& fields,
                                    const SharpenedPicture& picture);

}  // namespace optrel
