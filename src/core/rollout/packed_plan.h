// SPDX-License-Identifier: GPL-3.0-or-later
// The sidecars of a rollout, before and after, as two pieces of bytes to be kept.
#pragma once

#include <string>
#include <vector>

#include "rollout/shelf.h"

namespace optrel {

struct PackedPlan {
    std::string plan;  ///< JSON: for each frame where its texts stand in the data, as [from, length] or null
    std::string data;  ///< each text once, however many frames have it
};

PackedPlan pack(const std::vector<RolloutEntry>& entries);
/// Throws (anything) when the two do not fit together.
std::vector<RolloutEntry> unpack(const PackedPlan& packed);

}  // namespace optrel
