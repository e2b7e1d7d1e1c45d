// SPDX-License-Identifier: GPL-3.0-or-later
// The noise of a frame from the frame itself (photon transfer, EMVA 1288): the variance of a sample grows in proportion
// to its light, from what reading it out brings.
#pragma once

#include <array>
#include <vector>

#include "frames/picture.h"

namespace optrel {

/// variance = slope * light + offset, with light 0 at black and 1 at white.
struct NoiseTerms {
    double slope = 0, offset = 0;
    int patches = 0;  ///< that it was estimated from; 0: nothing in the frame was even enough

    double variance(double light) const { return slope * light + offset; }
};

/// By channel, from the evenest patches of 8 x 8 samples of each level of light: the second differences (Immerkaer
/// 1996) in them, which slow changes of light do not reach. Evenness is told from means over quarters of a patch, apart
/// from what is measured, so that the choice does not favour quiet patches. Fine texture everywhere makes it too large.
std::array<NoiseTerms, 3> noise_terms(const std::vector<SamplePlane>& planes);

}  // namespace optrel
