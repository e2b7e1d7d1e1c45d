// SPDX-License-Identifier: GPL-3.0-or-later
// Colour profiles of a studio: what frames carry, files that are kept, and how a profile changes a picture.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/progress.h"
#include "fleet/fleet.h"
#include "render/cielab.h"
#include "store/colours.h"
#include "store/frames.h"
#include "studio/frame_development.h"

namespace optrel {

/// A colour profile that frames of a body carry.
struct CarriedName {
    std::string body, name;
    int frames = 0;
    std::filesystem::path example;
};
/// Of all frames of the index, by body and by how many frames carry it. Bodies that are not known have no label.
std::vector<CarriedName> carried_names(const std::vector<FrameRecord>& frames, const Fleet& fleet);
/// Of the frames that are raw, the last one that a profile is for; empty where there is none.
std::filesystem::path frame_to_show(const std::vector<FrameRecord>& frames, const ColourProfile& profile);

/// The profile of that name (or the only one) that a frame carries. Throws Error(input) that names those there are.
ColourProfile carried_profile(const std::filesystem::path& frame, const std::string& name);

/// How a frame's picture changes when its colours come from elsewhere.
struct ColourChange {
    std::string frame, before, after;  ///< values of colour_source
    ColourDifference difference;
    /// "On X colours move by 4.1 on the mean, 12.0 at most (CIELAB), against: camera matrix."
    std::string sentence() const;
};
/// Develops the frame twice at a reduced size, by its development and with the profile in place of its own; with look
/// table and tone curve as the development has them. Throws Error as developing does.
ColourChange colour_change(const std::filesystem::path& frame, const FrameDevelopment& development,
                           const ColourProfile& profile, const Progress& progress);

}  // namespace optrel
