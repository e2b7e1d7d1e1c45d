// SPDX-License-Identifier: GPL-3.0-or-later
// Rollout and rollback of the current revision over frames of a store.
#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include "base/progress.h"
#include "rollout/rollout.h"
#include "store/store.h"
#include "studio/frames/frame_scope.h"
#include "studio/rollout/rehearsing.h"

namespace optrel {

/// Writes a rehearsal, within the hours of the order and while `may` returns true; otherwise the report says that it
/// paused. Runs with low priority. Sets the station of the order. Throws as roll_out() does.
RolloutReport roll_out_rehearsed(Store& store, const Rehearsal& rehearsal, RolloutOrder order, Progress& progress,
                                 const MayGoOn& may = {});
/// `at_once`: ignores the hours of the rollout.
RolloutReport go_on(Store& store, int number, bool at_once, Progress& progress, const WriteOptions& manner = {});
RolloutReport take_back(Store& store, int number, Progress& progress, const WriteOptions& manner = {});
/// Rolls back only the frames of a scope, as a new rollout.
RolloutReport take_back_part(Store& store, int number, const FrameScope& scope, const std::string& author,
                             Progress& progress);
RolloutReport roll_out_again(Store& store, int number, Progress& progress);

/// Interrupted rollouts of this station that may continue now by their hours; oldest first.
std::vector<RolloutRecord> due_rollouts(const Store& store);

/// Changes of a rollout in the form of a rehearsal.
Rehearsal difference_of(const Store& store, int number);

/// Rollout by number; 0 means the newest. Throws Error(input) when there is none.
RolloutRecord rollout_of(const Store& store, int number);

}  // namespace optrel
