// SPDX-License-Identifier: GPL-3.0-or-later
// Recommends the focal length of a zoom that should be measured next.
#pragma once

#include <optional>
#include <string>

#include "optics/profile.h"

namespace optrel {

struct NextSetting {
    double focal_mm = 0;                ///< where the mapping is least certain between measured focal lengths
    double sigma_px = 0;                ///< the largest uncertainty there over the picture; one sigma
    double below_mm = 0, above_mm = 0;  ///< the measured focal lengths on both sides

    /// "Between 35 and 70 mm the mapping is known to 0.84 px (one sigma, at 49 mm)."
    std::string sentence() const;
};

/// Searches between neighbouring focal lengths; other values are those of the lower one. Empty for a profile of one
/// focal length.
std::optional<NextSetting> next_focal_length(const Profile& profile);

}  // namespace optrel
