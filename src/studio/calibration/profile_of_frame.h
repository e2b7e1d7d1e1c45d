// SPDX-License-Identifier: GPL-3.0-or-later
// Common parts of profiles that are made from a single frame.
#pragma once

#include <filesystem>
#include <functional>
#include <string>

#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel {

/// Profile with names, sensor, provenance and a new id, without lens settings and note. Throws Error(input) when the
/// lens is unknown, Error(file) when the frame cannot be read.
Profile profile_of_frame(const std::filesystem::path& frame, const Metadata& metadata, MeasurementOrigin origin,
                         const std::string& author);

/// Vignetting, equal in all colours, that the correction factor `gain` (1 in the middle) removes; least squares over
/// field heights from 0 to `farthest`.
Falloff falloff_undone_by(const std::function<double(double height)>& gain, double farthest);

}  // namespace optrel
