// SPDX-License-Identifier: GPL-3.0-or-later
// Develops a frame file with its fields and its profile.
#pragma once

#include <filesystem>
#include <optional>

#include "base/progress.h"
#include "studio/development/development_facts.h"
#include "studio/profiles/frame_profile.h"

namespace optrel {

/// Adds the colour rendering that the file embeds.
void add_own_colours(RawPicture& raw, const OpenedFrame& frame, const Metadata& metadata);

/// Develops a frame file. Thread-safe.
Developed develop_file(const std::filesystem::path& path, const Metadata& metadata, const ResolvedFrame& fields,
                       const std::optional<AppliedProfile>& profile, const Progress& progress,
                       const PictureForm& form = {});
/// The same with all facts: what is known of the sensor counts.
Developed develop_file(const std::filesystem::path& path, const FrameDevelopment& facts, const Progress& progress,
                       const PictureForm& form = {});

}  // namespace optrel
