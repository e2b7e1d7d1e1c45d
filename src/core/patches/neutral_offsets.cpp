// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/neutral_offsets.h"

#include <cmath>

namespace optrel {

NeutralOffsets neutral_offsets(const CameraMatrices& matrices, const std::array<double, 3>& as_shot,
                               const std::array<double, 3>& neutral, const std::array<double, 3>& relative_sigma) {
    NeutralOffsets out;
    const Illuminant recorded = illuminant_of(matrices, as_shot);
    out.light = illuminant_of(matrices, neutral);
    out.warmth.value = 1e6 / out.light.kelvin - 1e6 / recorded.kelvin;
    out.tint.value = out.light.tint - recorded.tint;
    for (const std::size_t c : {0u, 2u}) {
        std::array<double, 3> moved = neutral;
        moved[c] *= 1 + relative_sigma[c];
        const Illuminant there = illuminant_of(matrices, moved);
        out.warmth.sigma = std::hypot(out.warmth.sigma, 1e6 / there.kelvin - 1e6 / out.light.kelvin);
        out.tint.sigma = std::hypot(out.tint.sigma, there.tint - out.light.tint);
    }
    return out;
}

}  // namespace optrel
