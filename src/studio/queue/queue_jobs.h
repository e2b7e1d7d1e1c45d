// SPDX-License-Identifier: GPL-3.0-or-later
// Adds jobs to the work queue (store/queue.h), divided into portions that any station can take. All return the job's
// number, or 0 when there is nothing to do.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "exchange/delivery.h"
#include "store/store.h"

namespace optrel {

/// Ids of the kinds of jobs (queue_kinds.h): index, measure, rehearse, rollout, check, export.
const std::vector<std::string>& work_kinds();

/// Reads the metadata of all frames in folders, in portions of 200 files. Unreadable folders are reported in
/// `problems`.
int queue_index(Store& store, const std::vector<std::filesystem::path>& folders, bool enter,
                std::vector<std::string>& problems);
/// The frames of a run that are not measured yet, each a portion. Throws Error(input) for a run that is not there.
int queue_measure(Store& store, int run);
/// Rehearses the current revision over known frames, in portions of 2,000. `of`: description of the frames. Throws
/// Error(input) when no revision is published.
int queue_rehearse(Store& store, const std::vector<FrameRecord>& frames, bool renew_hand_set, const std::string& of);
/// Continues an open rollout. Throws Error(input) for one that is not open.
int queue_rollout(Store& store, int number);
/// Checks all sidecars, in portions of 20,000; the last portion searches for missing frames.
int queue_check(Store& store);
/// Exports frames or films, one per portion, with a copy of the delivery. Throws Error(input) for a folder that is not
/// shared by all stations: with a server store, it must be inside a root.
int queue_export(Store& store, const std::vector<std::filesystem::path>& frames, const Delivery& delivery,
                 const std::filesystem::path& folder);

}  // namespace optrel
