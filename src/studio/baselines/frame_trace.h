// SPDX-License-Identifier: GPL-3.0-or-later
// Trace of a frame's values: where each comes from, for window and command line.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "baselines/resolver.h"
#include "rollout/sheet.h"

namespace optrel {

struct TraceLine {
    std::string source;  ///< a tier with its revision, the start, or a layer of the sheet
    Value value;
    std::string remark;  ///< may be empty
};

/// Resolver for the revision of a sheet's baseline, because a sidecar stores values without tiers. `current` when the
/// sheet has no baseline or is of that revision; otherwise `revision` loads it, and `current` is used when it is
/// missing.
std::shared_ptr<const Resolver> resolver_of(const Sheet& sheet, const std::shared_ptr<const Resolver>& current,
                                            const std::function<std::optional<Revision>(int)>& revision);

/// All tiers that applied to a frame, in order, then the layers on top; the last line is the winner. `resolver`: from
/// resolver_of().
std::vector<TraceLine> frame_trace(const Sheet& sheet, const FrameFacts& facts, Field field, const Resolver& resolver);

}  // namespace optrel
