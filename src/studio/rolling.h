// SPDX-License-Identifier: GPL-3.0-or-later
// Rehearsing and rolling out the current revision over frames of a store, and the way back.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/progress.h"
#include "rollout/rollout.h"
#include "store/store.h"

namespace optrel {

/// What a rehearsal is about: values, so that a worker can take them along.
struct RehearsalRequest {
    std::vector<FrameRecord> frames;             ///< all that the store knows
    std::vector<std::filesystem::path> folders;  ///< only frames in these and beneath them; none: all frames
    bool renew_hand_set = false;                 ///< renew the baseline beneath hand-set fields, which stay
};

/// What the revision would change; nothing is written. Throws Error(input) when none is published, or for a folder
/// without frames.
Rehearsal rehearse_frames(const RehearsalRequest& request, const Fleet& fleet, const Revision& revision,
                          Progress& progress);

/// Writes what was rehearsed. Throws as roll_out() does.
RolloutReport roll_out_rehearsed(Store& store, const Rehearsal& rehearsal, const std::string& author,
                                 Progress& progress);
RolloutReport go_on(Store& store, int number, Progress& progress);
RolloutReport take_back(Store& store, int number, Progress& progress);

/// The rollout of that number, or the newest for number 0. Throws Error(input) when there is none.
RolloutRecord rollout_of(Store& store, int number);

}  // namespace optrel
