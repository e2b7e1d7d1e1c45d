// SPDX-License-Identifier: GPL-3.0-or-later
// Which frames a rollout, an export or a list is about.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "store/store.h"

namespace optrel {

/// The frames in these folders and beneath them; all frames without folders. Throws Error(input) for a folder in which
/// no known frame lies, because a mistyped one must not look like a small scope.
std::vector<FrameRecord> frames_in(const std::vector<FrameRecord>& all,
                                   const std::vector<std::filesystem::path>& folders);

}  // namespace optrel
