// SPDX-License-Identifier: GPL-3.0-or-later
// Which focal length of a zoom is to be measured next.
#pragma once

#include <optional>
#include <string>

#include "optics/profile.h"

namespace optrel {

struct NextSetting {
    double focal_mm = 0;                ///< where the mapping is known least between the measured focal lengths
    double sigma_px = 0;                ///< its largest uncertainty there, over the picture; one sigma
    double below_mm = 0, above_mm = 0;  ///< the measured ones on either side

    /// "Between 35 and 70 mm the mapping is known to 0.84 px (one sigma, at 49 mm)."
    std::string sentence() const;
};

/// Looks between neighbouring focal lengths, at the setting of the lower one in all else. Nothing for a profile of one
/// focal length.
std::optional<NextSetting> next_focal_length(const Profile& profile);

}  // namespace optrel
