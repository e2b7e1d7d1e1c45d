// SPDX-License-Identifier: GPL-3.0-or-later
// A lens profile as it may leave the studio for strangers: the measurement, and nothing of who works where.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "optics/copy_spread.h"
#include "optics/profile.h"

namespace optrel {

class SigningKey;

/// Without author, note, and names of frames; the day of the measurement in place of its instant; the serial number of
/// the lens as a mark that only this key makes, which tells its copies apart and says nothing else; named by its lens.
/// Throws Error(input) for a profile that is not the studio's own measurement: only those are exchanged.
Profile shareable(const Profile& profile, const SigningKey& key);

/// Throws Error(input) for what shareable() would not have made, or for a lens that folds.
void check_shareable(const Profile& profile);

/// Throws Error(input), naming the lens setting, for a profile whose mapping folds back inside what it says was
/// measured, or inside its own picture: light of two places would land on one.
void check_unfolded(const Profile& profile);

/// The picture of the smallest sensor among profiles, and the setting to compare them at: what `wanted` leaves open is
/// that of the first.
PictureGeometry smallest_of(const std::vector<const Profile*>& profiles);
LensSetting compared_at(const std::vector<const Profile*>& profiles, const LensSetting& wanted);

/// How the copies of several profiles differ at a lens setting, over that picture. Empty when fewer than two can be
/// compared.
std::optional<CopySpread> spread_of_profiles(const std::vector<const Profile*>& profiles, const LensSetting& setting);

}  // namespace optrel
