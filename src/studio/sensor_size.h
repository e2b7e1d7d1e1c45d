// SPDX-License-Identifier: GPL-3.0-or-later
// The pixel pitch of a frame's sensor, without which no profile knows how large a lens's picture is on it.
#pragma once

#include <vector>

#include "fleet/fleet.h"
#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel {

/// The metadata with the pixel pitch that is known of its sensor: as the file records it; else as the register has it
/// for that model at the same number of pixels; else 0, as it was.
Metadata with_pitch(const Metadata& frame, const Fleet& fleet);

/// The same, by profiles that were measured on that model at the same number of pixels; else by the equivalent focal
/// length that the file records, to about two percent.
Metadata with_pitch(const Metadata& frame, const std::vector<Profile>& profiles);

/// One sentence for a frame whose pitch nobody knows.
std::string pitch_unknown(const Metadata& frame);

}  // namespace optrel
