// SPDX-License-Identifier: GPL-3.0-or-later
// Which frames were taken at the same lens setting.
#pragma once

#include <vector>

#include "optics/profile.h"

namespace optrel {

/// Sorts settings into groups of one focal length, aperture and focus distance. Focal lengths within 1 % and apertures
/// within a sixth of a stop are one; distances are one where they follow each other without a gap of 0.12 dioptres and
/// 12 %, since bodies that focus by themselves record a distance that jitters. Unknown values go with any. Returns the
/// group of each.
std::vector<int> group_settings(const std::vector<LensSetting>& settings);

/// The median of a group's values, unknown ones left aside.
LensSetting typical_setting(const std::vector<LensSetting>& settings);

}  // namespace optrel
