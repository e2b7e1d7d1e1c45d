// SPDX-License-Identifier: GPL-3.0-or-later
// Putting long work into the queue that a studio shares (store/queue.h): each divides a piece of work into portions
// that any station can take. All return the job's number, or 0 where there is nothing to be done.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "exchange/delivery.h"
#include "store/store.h"

namespace optrel {

/// The kinds of work: index, measure, rehearse, rollout, check, export.
const std::vector<std::string>& work_kinds();

/// Metadata of all frames of folders, in portions of 200 files. What cannot be looked into is told in `problems`.
int queue_index(Store& store, const std::vector<std::filesystem::path>& folders, bool enter,
                std::vector<std::string>& problems);
/// The frames of a run that are not measured yet, each a portion. Throws Error(input) for a run that is not there.
int queue_measure(Store& store, int run);
/// What the current revision would change in frames that the store knows, in portions of 2,000; nothing is written.
/// `of`: the frames in words. Throws Error(input) when no revision is published.
int queue_rehearse(Store& store, const std::vector<FrameRecord>& frames, bool renew_hand_set, const std::string& of);
/// A rollout that is open: to be written to its end. Throws Error(input) for one that is not.
int queue_rollout(Store& store, int number);
/// Drift of all frames, in portions of 20,000, and one portion that looks for what the others found gone.
int queue_check(Store& store);
/// Frames or films, each a portion, written into a folder by the delivery as it is now. Throws Error(input) where other
/// stations would write into another folder of that name: one of a studio on a server lies within a root.
int queue_export(Store& store, const std::vector<std::filesystem::path>& frames, const Delivery& delivery,
                 const std::filesystem::path& folder);

}  // namespace optrel
