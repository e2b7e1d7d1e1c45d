// SPDX-License-Identifier: GPL-3.0-or-later
// Compact form of a rollout's sidecars for storage.
#pragma once

#include <string>
#include <vector>

#include "rollout/rollout_store.h"

namespace optrel {

struct PackedPlan {
    std::string plan;  ///< JSON: for each frame the position of its texts in the data, as [from, length] or null
    std::string data;  ///< each distinct text once
};

PackedPlan pack(const std::vector<RolloutEntry>& entries);
/// Throws an exception when plan and data do not match.
std::vector<RolloutEntry> unpack(const PackedPlan& packed);

}  // namespace optrel
