// SPDX-License-Identifier: GPL-3.0-or-later
// Profile files.
#pragma once

#include <filesystem>
#include <optional>

#include "optics/profile.h"
#include "store/store.h"

namespace optrel {

/// Reads a profile file. Throws Error(input) when it is none.
Profile read_profile(const std::filesystem::path& path);

/// The published profile with the same contents, whatever its number; empty if there is none.
std::optional<Profile> already_published(const std::vector<Profile>& versions, const Profile& profile);

/// Publishes it, as the next version for its lens if the store has one (see StoredProfiles::publish()). Throws
/// Error(input) when the store has it already. A statement in the file about its signer is ignored.
Profile take_in_profile(Store& store, Profile profile, OtherSettings others = OtherSettings::ask);

}  // namespace optrel
