// SPDX-License-Identifier: GPL-3.0-or-later
// Rolling out and back, so that a stop at any instant leaves every sidecar whole.
//
// Before the first sidecar is written, the shelf (shelf.h) holds the bytes of every sidecar before and after. What has
// been done is told by the sidecars themselves: one that equals its bytes after is done, one that equals its bytes
// before is not, any other was changed by somebody and is kept.
//
// One rollout or roll back works on a store at a time, and another is told so. A sidecar that cannot be written is
// listed and the rest goes on; the rollout then stays open, to be resumed.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/progress.h"
#include "rollout/rehearse.h"
#include "rollout/shelf.h"

namespace optrel {

struct RolloutReport {
    RolloutRecord record;
    int written = 0;
    std::vector<std::string>
        kept;  ///< one sentence for each sidecar that somebody changed in between, or whose frame is gone
    std::vector<std::string> failed;  ///< one sentence for each that could not be written; the rollout can be resumed
    std::vector<std::string>
        unreadable;  ///< one sentence for each frame that the rehearsal could not read, so nothing was written for it
    bool complete() const { return failed.empty(); }
};

/// Writes what was rehearsed. Throws Error(input) without writing anything when a sidecar or the revision changed
/// since, or when another rollout works on this store.
RolloutReport roll_out(const Rehearsal& rehearsal, int current_revision, RolloutShelf& shelf, const std::string& author,
                       Progress& progress);

/// Goes on with a rollout or a roll back that was stopped. Throws Error(input) when another works on this store, or it
/// never began.
RolloutReport resume(RolloutShelf& shelf, int number, Progress& progress);

/// Restores every sidecar byte for byte, except those changed since, which are listed and kept. What is to be removed
/// goes first, so that it works on a full disk too. Of a rollout that never began there is nothing to restore. Throws
/// Error(input) as resume() does.
RolloutReport roll_back(RolloutShelf& shelf, int number, Progress& progress);

}  // namespace optrel
