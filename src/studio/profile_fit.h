// SPDX-License-Identifier: GPL-3.0-or-later
// Whether a profile that a person names outright fits what it is to be used on.
#pragma once

#include <string>

#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel {

/// Throws Error(input) that says why a profile does not fit a frame: another lens, another size of the sensor, or one
/// that nobody knows, a focal length or an aperture outside what was measured. What the frame does not record is not
/// held against it. `what` names the frame.
void require_fit(const Profile& profile, const Metadata& frame, const std::string& what);

/// The same for a picture and a lens setting that a person gives.
void require_fit(const Profile& profile, const LensSetting& setting, const PictureGeometry& geometry,
                 const std::string& what);

}  // namespace optrel
