// SPDX-License-Identifier: GPL-3.0-or-later
// Developing a frame: which fields and which profile it gets, and the picture that comes of them.
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

/// The fields that a frame is developed with: those of its sheet, or what the current revision says while nothing is
/// written to it.
ResolvedFrame fields_of(const Sheet& sheet, const FrameFacts& facts, const Resolver& current);

/// The profile that a frame is corrected with, by its fields; an exempt frame gets none, nor does a picture that is
/// corrected already, unless a profile was chosen for it by hand. Throws as profile_for() does.
ProfileMatch profile_of(const Sheet& sheet, const ResolvedFrame& fields, const Metadata& frame,
                        const std::vector<Profile>& profiles);

/// The profile that the resolved field lens_profile means for a frame, of all versions that there are. Throws
/// Error(input) when a fixed one is not in the store; one that was withdrawn is none, with the reason.
ProfileMatch profile_for(const ResolvedFrame& fields, const Metadata& frame, const std::vector<Profile>& profiles);
std::optional<AppliedProfile> applied(const ProfileMatch& match, const Metadata& frame);

/// Geometry of a frame's picture; a missing pitch is taken as of a 36 mm wide picture.
PictureGeometry geometry_of(const Metadata& metadata);

/// Adds what the file itself says of how its colours are rendered.
void add_own_colours(RawPicture& raw, const std::filesystem::path& path, const Metadata& metadata);

/// Develops a frame file with fields and a profile. Thread-safe.
Developed develop_file(const std::filesystem::path& path, const Metadata& metadata, const ResolvedFrame& fields,
                       const std::optional<AppliedProfile>& profile, const Progress& progress,
                       const PictureForm& form = {});

}  // namespace optrel
