// SPDX-License-Identifier: GPL-3.0-or-later
// What profiles have in common that are made from a single frame: by hand, or from what the file carries.
#pragma once

#include <filesystem>
#include <functional>
#include <string>

#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel {

/// Names, sensor, provenance and an id of its own; no lens setting yet, and no note. Throws Error(input) when the frame
/// does not name its lens, Error(file) when it cannot be read.
Profile profile_of_frame(const std::filesystem::path& frame, const Metadata& metadata, ProfileOrigin origin,
                         const std::string& author);

/// The falloff, alike in all colours, that `gain` (1 in the middle) undoes, by least squares over field heights from 0
/// to `farthest`.
Falloff falloff_undone_by(const std::function<double(double height)>& gain, double farthest);

}  // namespace optrel
