// SPDX-License-Identifier: GPL-3.0-or-later
// Pixel pitch of a frame's sensor, which a profile needs to scale its picture.
#pragma once

#include <vector>

#include "fleet/fleet.h"
#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel {

/// Metadata with the pixel pitch from the file, otherwise from the register for that model and number of pixels,
/// otherwise 0.
Metadata with_pitch(const Metadata& frame, const Fleet& fleet);

/// The same with the pitch from profiles of that model and number of pixels, otherwise from the equivalent focal length
/// in the file, accurate to about two percent.
Metadata with_pitch(const Metadata& frame, const std::vector<Profile>& profiles);

/// Message for a frame with unknown pitch.
std::string pitch_unknown(const Metadata& frame);

}  // namespace optrel
