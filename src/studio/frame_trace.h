// SPDX-License-Identifier: GPL-3.0-or-later
// Where each value of a frame's sheet comes from: the one account of it, for window and command line.
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

/// The revision that a sheet's baseline came from, ready to resolve: a sidecar keeps values, not tiers. `current` where
/// the sheet has no baseline or is of that revision; otherwise `revision` is asked, and what it has not is `current`.
std::shared_ptr<const Resolver> resolver_of(const Sheet& sheet, const std::shared_ptr<const Resolver>& current,
                                            const std::function<std::optional<Revision>(int)>& revision);

/// Every tier that applied to a frame, in order, then the layers that lie on top; the last line won. `resolver`:
/// resolver_of() the sheet.
std::vector<TraceLine> frame_trace(const Sheet& sheet, const FrameFacts& facts, Field field, const Resolver& resolver);

}  // namespace optrel
