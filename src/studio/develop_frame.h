// SPDX-License-Identifier: GPL-3.0-or-later
// Develops a frame: fields, profile, and the resulting picture.
#pragma once

#include <filesystem>
#include <optional>
#include <vector>

#include "base/progress.h"
#include "baselines/resolver.h"
#include "fleet/matching.h"
#include "render/develop.h"
#include "rollout/sheet.h"

namespace optrel {

/// Fields of a frame: those of its sheet, or of the current revision when it has no sheet.
ResolvedFrame fields_of(const Sheet& sheet, const FrameFacts& facts, const Resolver& current);

/// Profile for a frame, from its fields. Exempt frames and pictures that are already corrected get none, unless a
/// profile was chosen by hand. Throws as profile_for() does.
ProfileMatch profile_of(const Sheet& sheet, const ResolvedFrame& fields, const Metadata& frame,
                        const std::vector<Profile>& profiles);

/// The profile that the field lens_profile refers to. Throws Error(input) when a fixed one is missing; a withdrawn one
/// gives none, with the reason.
ProfileMatch profile_for(const ResolvedFrame& fields, const Metadata& frame, const std::vector<Profile>& profiles);
std::optional<AppliedProfile> applied(const ProfileMatch& match, const Metadata& frame);

/// Picture geometry; a missing pixel pitch is replaced by that of a 36 mm wide sensor.
PictureGeometry geometry_of(const Metadata& metadata);

/// Adds the colour rendering that the file embeds.
void add_own_colours(RawPicture& raw, const std::filesystem::path& path, const Metadata& metadata);

/// Develops a frame file. Thread-safe.
Developed develop_file(const std::filesystem::path& path, const Metadata& metadata, const ResolvedFrame& fields,
                       const std::optional<AppliedProfile>& profile, const Progress& progress,
                       const PictureForm& form = {});

}  // namespace optrel
