// SPDX-License-Identifier: GPL-3.0-or-later
// Groups the frames of a folder into runs: one body and one lens, at one or more lens settings.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "frames/metadata.h"

namespace optrel {

struct FrameGroup {
    std::string label;  ///< "Brimholt B2 B2-0117, Lumenfold 35mm f/2.8, 35 mm f/4 1 m"
    std::vector<std::filesystem::path> paths;
};

/// Groups in the order of their first frame; frames keep their order.
std::vector<FrameGroup> group_frames(const std::vector<std::pair<std::filesystem::path, Metadata>>& frames);

}  // namespace optrel
