// SPDX-License-Identifier: GPL-3.0-or-later
// A lens profile in the form that leaves the studio: the measurement without personal data.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "optics/copy_spread.h"
#include "optics/profile.h"

namespace optrel {

class SigningKey;

/// Removes author, note and frame names; reduces the time of measurement to the date; replaces the serial number by a
/// pseudonym that depends on the key; names the profile by its lens. Throws Error(input) for a profile that the studio
/// did not measure itself.
Profile shareable(const Profile& profile, const SigningKey& key);

/// Throws Error(input) for a profile that shareable() cannot have produced, and for a mapping that folds.
void check_shareable(const Profile& profile);

/// The smallest sensor among the profiles, and the lens setting for a comparison; values missing in `wanted` come from
/// the first profile.
PictureGeometry smallest_of(const std::vector<const Profile*>& profiles);
LensSetting compared_at(const std::vector<const Profile*>& profiles, const LensSetting& wanted);

/// Differences between the copies of a lens at a setting, over that picture. Empty with fewer than two comparable
/// profiles.
std::optional<CopySpread> spread_of_profiles(const std::vector<const Profile*>& profiles, const LensSetting& setting);

}  // namespace optrel
