// SPDX-License-Identifier: GPL-3.0-or-later
// Rehearsing and rolling out the current revision over frames of a store, and the way back.
#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include "base/progress.h"
#include "rollout/rollout.h"
#include "store/store.h"
#include "studio/frame_scope.h"

namespace optrel {

/// What a rehearsal is about: values, so that a worker can take them along.
struct RehearsalRequest {
    using Frames = std::vector<FrameRecord>;
    std::shared_ptr<const Frames> frames;  ///< all that the store knows; shared, since they may be very many
    FrameScope scope;
    bool renew_hand_set = false;  ///< renew the baseline beneath hand-set fields, which stay
    bool one_core = false;        ///< leave the others to whoever works on this machine
    /// All versions of the profiles, so that frames are noted with the one that they get; null: nothing is noted.
    std::shared_ptr<const std::vector<Profile>> profiles = nullptr;
};

/// The versions that a store has, for a request.
std::shared_ptr<const std::vector<Profile>> profiles_of(Store& store);

/// What the revision would change; nothing is written. Throws Error(input) when none is published, and as frames_of()
/// does.
Rehearsal rehearse_frames(const RehearsalRequest& request, const Fleet& fleet, const Revision& revision,
                          Progress& progress);

/// Writes what was rehearsed, in the hours of the order and as long as `may` says; where it has to stop for them, the
/// report says that it paused. All writing yields to whoever works on this machine. The order's station is set here.
/// Throws as roll_out() does.
RolloutReport roll_out_rehearsed(Store& store, const Rehearsal& rehearsal, RolloutOrder order, Progress& progress,
                                 const MayGoOn& may = {});
/// `at_once`: whatever hours the rollout keeps to.
RolloutReport go_on(Store& store, int number, bool at_once, Progress& progress, const CarryManner& manner = {});
RolloutReport take_back(Store& store, int number, Progress& progress, const CarryManner& manner = {});
/// The frames of a scope alone, as a rollout of its own.
RolloutReport take_back_part(Store& store, int number, const FrameScope& scope, const std::string& author,
                             Progress& progress);
RolloutReport roll_out_again(Store& store, int number, Progress& progress);

/// Rollouts of this station that stopped, keep to hours, and may go on now; oldest first.
std::vector<RolloutRecord> due_rollouts(Store& store);

/// What a rollout changed, as it was rehearsed: field by field, frame by frame.
Rehearsal difference_of(Store& store, int number);

/// The rollout of that number, or the newest for number 0. Throws Error(input) when there is none.
RolloutRecord rollout_of(Store& store, int number);

}  // namespace optrel
