// SPDX-License-Identifier: GPL-3.0-or-later
// Estimates the noise of a frame from the frame itself (photon transfer, EMVA 1288): the variance of a sample is the
// variance of readout plus a part that is proportional to its light.
#pragma once

#include <array>
#include <vector>

#include "frames/picture.h"

namespace optrel {

/// variance = slope * light + offset, with light 0 at black and 1 at white.
struct NoiseTerms {
    double slope = 0, offset = 0;
    int patches = 0;  ///< number of patches used; 0: no part of the frame was even enough

    double variance(double light) const { return slope * light + offset; }
};

/// By channel, from the most even patches of 8 x 8 samples at each level of light, by second differences (Immerkaer
/// 1996), which slow changes of light do not affect. Evenness is judged by means over quarters of a patch, so that the
/// choice does not favour patches with little noise. Fine texture everywhere makes the estimate too large.
std::array<NoiseTerms, 3> noise_terms(const std::vector<SamplePlane>& planes);

}  // namespace optrel
