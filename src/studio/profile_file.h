// SPDX-License-Identifier: GPL-3.0-or-later
// Profiles that come as files.
#pragma once

#include <filesystem>
#include <optional>

#include "optics/profile.h"
#include "store/store.h"

namespace optrel {

/// Reads a profile from a file. Throws Error(input) in one sentence for anything that is none.
Profile read_profile(const std::filesystem::path& path);

/// The published profile that says just this, without regard to its number; empty where there is none.
std::optional<Profile> already_published(const std::vector<Profile>& versions, const Profile& profile);

/// Publishes it as the next version of its lens where the store has one (see StoredProfiles::publish). Throws
/// Error(input) when the store has it already.
/// What it says of who signed it counts for nothing.
Profile take_in_profile(Store& store, Profile profile, OtherSettings others = OtherSettings::ask);

}  // namespace optrel
