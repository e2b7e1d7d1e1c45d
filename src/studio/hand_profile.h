// SPDX-License-Identifier: GPL-3.0-or-later
// Keeping what a person set on a frame as a profile of its lens. It is marked as made by hand, and never taken by
// itself: it can only be assigned, as a stand-in.
#pragma once

#include <filesystem>

#include "studio/frame_development.h"

namespace optrel {

/// Distortion, red and blue, and the corner's light as the development's fields have them, at the frame's lens setting,
/// with how well the profile's terms follow them. The profile is not published yet. Throws Error(input) when a profile
/// corrects the frame already, when the frame does not name its lens, or when nothing of the lens is set by hand.
struct HandProfile {
    Profile profile;
    double light_off_ev = 0;  ///< largest difference from the corner light that was set
};
HandProfile profile_by_hand(const std::filesystem::path& frame, const FrameDevelopment& development,
                            const std::string& author);

}  // namespace optrel
