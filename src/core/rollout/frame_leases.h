// SPDX-License-Identifier: GPL-3.0-or-later
// Leases on frames for a store in a folder, so that two rollouts never write the same frames.
//
// Each lease is a file in the folder claims/, locked (flock) by its process: when the process ends, the lease is free.
// A running process renews its lease by setting the file's time; when a process is suspended, its lease expires,
// another process may delete the file, and the first one notices that when it continues. Creating, checking and taking
// over leases happens under one lock of the folder. When no lease file can be created, for example on a full disk, that
// lock itself is held and reserves all frames.
#pragma once

#include <filesystem>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "rollout/rollout_store.h"

namespace optrel {

/// Leases frames in the name of `who` ("A rollout of T. Ester at north-2") during the lifetime of the result. Throws
/// FramesInUse with the current holder.
std::unique_ptr<RolloutStore::Lease> lease_frames(const std::filesystem::path& rollouts,
                                                  const std::vector<std::filesystem::path>& frames,
                                                  const std::string& who);

/// The rollouts that are being worked on, each with its station.
std::map<int, std::string> rollouts_at_work(const std::filesystem::path& rollouts);

}  // namespace optrel
