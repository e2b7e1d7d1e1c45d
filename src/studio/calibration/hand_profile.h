// SPDX-License-Identifier: GPL-3.0-or-later
// Converts hand-set lens corrections of a frame into a profile, marked as made by hand. It is never used automatically,
// only by assignment, as a stand-in.
#pragma once

#include <filesystem>

#include "studio/development/frame_development.h"

namespace optrel {

/// Profile from hand-set distortion, red and blue shifts and corner light, at the frame's lens setting, with its
/// deviation from them. The profile is unpublished. Throws Error(input) when a profile already corrects the frame, when
/// the lens is unknown, or when nothing is hand-set.
struct HandProfile {
    Profile profile;
    double light_off_ev = 0;  ///< largest deviation from the hand-set corner light
};
HandProfile profile_by_hand(const std::filesystem::path& frame, const FrameDevelopment& development,
                            const std::string& author);

}  // namespace optrel
