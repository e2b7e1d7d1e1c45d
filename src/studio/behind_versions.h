// SPDX-License-Identifier: GPL-3.0-or-later
// Frames that were rolled out with another version of their lens profile than they get now, and look different.
#pragma once

#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "fleet/fleet.h"
#include "rollout/sheet.h"
#include "store/frames.h"

namespace optrel {

struct BehindVersion {
    std::string before, after;  ///< versions as people read them; "none"
    int frames = 0;
    double largest_px = 0;  ///< by which places of their pictures move
};

using NotedFrame = std::pair<FrameRecord, std::shared_ptr<const Sheet>>;

/// By the versions, most frames first. `noted`: frames with sheets that say which version they had.
std::vector<BehindVersion> behind_versions(const std::vector<NotedFrame>& noted, const Fleet& fleet,
                                           const std::shared_ptr<const std::vector<Profile>>& profiles);

}  // namespace optrel
