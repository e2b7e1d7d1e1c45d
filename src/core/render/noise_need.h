// SPDX-License-Identifier: GPL-3.0-or-later
// How much noise reduction a body needs: the least strengths that bring the noise of a developed grey patch under a
// limit, and the detail that they cost.
//
// A target is simulated with the measured noise, developed with all other fields as they are, and measured as a viewer
// sees it: standard deviation of CIELAB over an even patch (ISO 15739 in kind), modulation of a slanted edge (ISO
// 12233), and the part of a weak texture that is left.
#pragma once

#include <array>

#include "base/progress.h"
#include "baselines/resolver.h"
#include "frames/picture.h"

namespace optrel {

/// The body whose noise the target shows.
struct NoisyBody {
    std::array<double, 6> terms{};  ///< a and b of red, green and blue: variance = a signal + b, signal 1 at white
    RawPicture like;                ///< layout, filter and colours are used; counts may be empty
    int longest_side = 6000;        ///< px of its frames
};

struct NoiseLimit {
    double lightness = 1;  ///< largest standard deviation of L*
    double colour = 1;     ///< largest standard deviation of a* and of b*
    int longest_side = 0;  ///< output size in px, at which the noise is judged; 0: that of the frame
    double grey = 0.18;    ///< linear light of the patch; white is 1
};

/// Figures of the developed target.
struct SeenNoise {
    double lightness = 0, colour = 0;  ///< standard deviations of L*, and the larger one of a* and b*
    double mtf50 = 0;                  ///< cycles per pixel of the output
    double texture = 0;                ///< share of a weak texture's contrast that is left
};

struct NoiseNeed {
    double luminance = 0, colour = 0;  ///< strengths, whole numbers from 0 to 100
    SeenNoise without, with;           ///< without noise reduction, and with these strengths
    bool reached = true;               ///< the limit is met with these strengths
};

/// The target, developed with these fields.
SeenNoise seen_noise(const NoisyBody& body, const ResolvedFrame& fields, const NoiseLimit& limit,
                     const Progress& progress);

/// The least strengths. `fields`: everything else that a frame gets; their own noise reduction, sharpness of edges and
/// so on count, except the two strengths. Throws Error(input) for limits that are not positive, and for an output that
/// is too small to be judged.
NoiseNeed noise_need(const NoisyBody& body, const ResolvedFrame& fields, const NoiseLimit& limit,
                     const Progress& progress);

}  // namespace optrel
