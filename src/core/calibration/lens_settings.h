// SPDX-License-Identifier: GPL-3.0-or-later
// Finds frames that were taken at the same lens setting.
#pragma once

#include <vector>

#include "optics/profile.h"

namespace optrel {

/// Groups settings by focal length, aperture and focus distance. Focal lengths within 1 % and apertures within a sixth
/// of a stop are equal. Distances are equal while they follow each other without a gap of 0.12 dioptres and 12 %,
/// because bodies with autofocus record a distance that jitters. Unknown values match any. Returns the group of each
/// setting.
std::vector<int> group_settings(const std::vector<LensSetting>& settings);

/// The median of a group's values, without unknown ones.
LensSetting typical_setting(const std::vector<LensSetting>& settings);

}  // namespace optrel
