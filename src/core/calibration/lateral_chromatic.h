// SPDX-License-Identifier: GPL-3.0-or-later
// Lateral chromatic aberration (ISO 19084) from corners measured on each colour.
#pragma once

#include <optional>
#include <vector>

#include "optics/profile.h"

namespace optrel {

/// Position of green and displacement of a channel against it, both in mm on the sensor.
struct ChromaticPoint {
    Vec2 green_mm;
    Vec2 displacement_mm;
    double sigma_mm;
};

/// Linear least squares with Huber's weights for the five terms of Fringe. Empty with fewer than 40 points.
std::optional<LateralChromatic> fit_lateral_chromatic(const std::vector<ChromaticPoint>& points, const Vec2& centre_mm,
                                                      const PictureGeometry& geometry);

}  // namespace optrel
