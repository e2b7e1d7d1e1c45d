// SPDX-License-Identifier: GPL-3.0-or-later
// The curves of a lens against field height, each with one sigma. Reports print them and the window draws them.
#pragma once

#include <optional>
#include <vector>

#include "optics/uncertainty.h"

namespace optrel {

struct CurveSample {
    double height;  ///< field height: 0 in the middle, 1 in the corner
    double value;
    double sigma;  ///< one sigma of the value
};
struct LensCurve {
    Channel channel = Channel::green;
    std::vector<CurveSample> samples;
    std::optional<LineRun> run = std::nullopt;  ///< only for resolution
};
struct LensCurves {
    std::vector<LensCurve> distortion;  ///< percent (ISO 17850), green
    std::vector<LensCurve>
        fringe;  ///< px against green, radial, mean over all directions (ISO 19084); red and blue as measured
    std::vector<LensCurve> falloff;     ///< EV, negative towards the corner (ISO 17957)
    std::vector<LensCurve> resolution;  ///< MTF50 of green, cycles per px (ISO 12233): along both runs of lines
};

/// A node of a profile, placed where it was measured.
PlacedNode measured_node(const Profile& profile, int index);

/// Curves of a placed node at `steps` + 1 heights from 0 to 1. What was not measured has no curve.
LensCurves lens_curves(const Profile& profile, const PlacedNode& placed, int steps = 50);

}  // namespace optrel
