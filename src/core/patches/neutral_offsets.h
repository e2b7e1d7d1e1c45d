// SPDX-License-Identifier: GPL-3.0-or-later
// Warmth and tint that make a neutral grey, over the white balance that a frame records.
#pragma once

#include <array>

#include "render/colour.h"

namespace optrel {

/// A value with one sigma.
struct ColourFigure {
    double value = 0, sigma = 0;
};

struct NeutralOffsets {
    Illuminant light;     ///< in which the neutral is grey
    ColourFigure warmth;  ///< difference of reciprocal temperatures, MK^-1
    ColourFigure tint;
};

/// `as_shot`: camera values of a neutral as the frame records it; `neutral`: the measured ones, green 1. The sigma of
/// both offsets follows from `relative_sigma` of red and of blue over green.
NeutralOffsets neutral_offsets(const CameraMatrices& matrices, const std::array<double, 3>& as_shot,
                               const std::array<double, 3>& neutral, const std::array<double, 3>& relative_sigma);

}  // namespace optrel
