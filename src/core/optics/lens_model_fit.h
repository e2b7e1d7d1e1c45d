// SPDX-License-Identifier: GPL-3.0-or-later
// A lens model that follows a given radial mapping as closely as its terms allow.
#pragma once

#include <functional>
#include <vector>

#include "optics/lens_model.h"

namespace optrel {

/// Least squares over the bent radius, out to an angle (radians) from the axis, 83 degrees at most. `free` names the
/// radial coefficients that may differ from zero; decentring is zero. `bent_radius` takes an ideal radius (tangent of
/// the angle).
LensModel fit_radial(LensModelKind kind, const std::vector<int>& free, const std::function<double(double)>& bent_radius,
                     double angle);

}  // namespace optrel
