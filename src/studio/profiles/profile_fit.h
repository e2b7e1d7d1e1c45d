// SPDX-License-Identifier: GPL-3.0-or-later
// Checks whether an explicitly named profile fits a frame.
#pragma once

#include <string>

#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel {

/// Throws Error(input) with the reason when a profile does not fit: another lens, another or unknown sensor size, a
/// focal length or aperture outside the measured range. Missing metadata is no objection. `what`: name of the frame for
/// the message.
void require_fit(const Profile& profile, const Metadata& frame, const std::string& what);

/// The same for a picture and lens setting that the user gives.
void require_fit(const Profile& profile, const LensSetting& setting, const PictureGeometry& geometry,
                 const std::string& what);

}  // namespace optrel
