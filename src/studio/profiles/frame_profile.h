// SPDX-License-Identifier: GPL-3.0-or-later
// Fields of a frame, and the profile that they choose.
#pragma once

#include <optional>
#include <vector>

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

}  // namespace optrel
