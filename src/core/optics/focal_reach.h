// SPDX-License-Identifier: GPL-3.0-or-later
// Decides whether a profile may be used at a focal length. Matching, named profiles and exchanges use this rule.
#pragma once

#include "optics/profile.h"

namespace optrel {

/// How far outside its measured range a profile may be used, as a share of the focal length.
inline constexpr double focal_tolerance = 0.035;

/// True when `focal_mm` lies in the measured range of the profile or at most the tolerance outside it; also when either
/// is unknown (0).
inline bool reaches_focal(const Profile& profile, double focal_mm) {
    const auto [low, high] = focal_range(profile);
    if (!(focal_mm > 0) || !(high > 0)) return true;
    return focal_mm >= low / (1 + focal_tolerance) && focal_mm <= high * (1 + focal_tolerance);
}

}  // namespace optrel
