// SPDX-License-Identifier: GPL-3.0-or-later
// Colour profiles of a studio: embedded in frames, kept as files, and compared by their effect on a picture.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/progress.h"
#include "fleet/fleet.h"
#include "render/cielab.h"
#include "store/colours.h"
#include "store/frames.h"
#include "studio/development/frame_development.h"

namespace optrel {

/// A colour profile that frames of a body contain.
struct EmbeddedName {
    std::string body, name;
    int frames = 0;
    std::filesystem::path example;
};
/// All embedded profiles by body and number of frames. Unknown bodies have an empty label.
std::vector<EmbeddedName> carried_names(const std::vector<FrameRecord>& frames, const Fleet& fleet);
/// The last raw frame that a profile applies to; empty if there is none.
std::filesystem::path frame_to_show(const std::vector<FrameRecord>& frames, const ColourProfile& profile);

/// The embedded profile with that name, or the only one. Throws Error(input) with the available names.
ColourProfile carried_profile(const std::filesystem::path& frame, const std::string& name);

/// Change of a picture when its colours come from another profile.
struct ColourChange {
    std::string frame, before, after;  ///< values of colour_source
    ColourDifference difference;
    /// "On X colours move by 4.1 on the mean, 12.0 at most (CIELAB), against: camera matrix."
    std::string sentence() const;
};
/// Develops the frame twice at reduced size: with its own colours and with the profile; look table and tone curve as in
/// its development. Throws as developing does.
ColourChange colour_change(const std::filesystem::path& frame, const FrameDevelopment& development,
                           const ColourProfile& profile, const Progress& progress);

}  // namespace optrel
