// SPDX-License-Identifier: GPL-3.0-or-later
// Colour fringes that no profile accounts for: longitudinal aberration, purple edges, bloom.
#pragma once

#include "render/planes.h"

namespace optrel {

/// Across an edge, the differences red - green and blue - green should lie between those of its two sides. What lies
/// outside, where the sides are taken four pixels away in the direction in which green changes most, is reduced by
/// `percent`, fully where green changes by much more than a twentieth of white. In place.
void suppress_fringes(Planes& planes, double percent);

}  // namespace optrel
