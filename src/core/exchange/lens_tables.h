// SPDX-License-Identifier: GPL-3.0-or-later
// The figures of a lens setting as tables, with the quantities of the standards.
#pragma once

#include <map>
#include <string>

#include "optics/profile.h"

namespace optrel {

/// CSV by file name, only for what was measured: "distortion.csv" (ISO 17850), "chromatic.csv" (lateral chromatic
/// displacement, ISO 19084), "falloff.csv" (ISO 17957). Field heights run from 0 in the middle to 1 in the corner in
/// steps of 0.05, with the radius on the sensor; sigmas are one sigma.
std::map<std::string, std::string> lens_tables(const Profile& profile, const PlacedNode& placed);

}  // namespace optrel
