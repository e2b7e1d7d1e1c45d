// SPDX-License-Identifier: GPL-3.0-or-later
// Determines the development of a frame, from a store or from a profile file.
#pragma once

#include <map>
#include <optional>
#include <string>

#include "studio/development/development_facts.h"

namespace optrel {

class Store;

/// By store, sheet and profile; for a film by the film rules. Throws as reading does.
FrameDevelopment development_from_store(const Store& store, const std::filesystem::path& frame);
/// Neutral settings with a profile from a file. Throws Error(input) when the profile does not fit (profile_fit.h),
/// unless `anyway`.
FrameDevelopment development_from_profile(const std::filesystem::path& profile, const std::filesystem::path& frame,
                                          bool anyway);
/// Neutral, without a profile.
FrameDevelopment bare_development(const std::filesystem::path& frame);

/// Sets a field for this development only, as "pitch=2.5". Throws Error(usage) or Error(input).
void set_field(FrameDevelopment& development, const std::string& assignment);

}  // namespace optrel
