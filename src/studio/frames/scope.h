// SPDX-License-Identifier: GPL-3.0-or-later
// Frames in folders, for rollouts, exports and lists.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "store/store.h"

namespace optrel {

/// Frames in these folders and their subfolders; without folders, all frames. Throws Error(input) for a folder without
/// known frames, because a typing error must not look like a small selection.
std::vector<FrameRecord> frames_in(const std::vector<FrameRecord>& all,
                                   const std::vector<std::filesystem::path>& folders);

}  // namespace optrel
