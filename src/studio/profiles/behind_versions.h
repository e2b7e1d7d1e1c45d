// SPDX-License-Identifier: GPL-3.0-or-later
// Frames that were rolled out with an older version of their lens profile, and would look different now.
#pragma once

#include <memory>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "fleet/fleet.h"
#include "optics/profile.h"
#include "rollout/sheet.h"
#include "store/frames.h"

namespace optrel {

struct BehindVersion {
    std::string before, after;  ///< names of the versions; "none"
    int frames = 0;
    double largest_px = 0;  ///< largest displacement between both
};

/// The versions that frames get now, as sheets note them ("ID@VERSION").
std::set<std::string> current_versions(const std::vector<Profile>& versions);

using NotedFrame = std::pair<FrameRecord, std::shared_ptr<const Sheet>>;

/// Grouped by versions, most frames first. `noted`: frames whose sheets name the version.
std::vector<BehindVersion> behind_versions(const std::vector<NotedFrame>& noted, const Fleet& fleet,
                                           const std::shared_ptr<const std::vector<Profile>>& profiles);

}  // namespace optrel
