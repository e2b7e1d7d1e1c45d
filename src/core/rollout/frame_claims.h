// SPDX-License-Identifier: GPL-3.0-or-later
// Which frames a rollout is at work on, so that two never write the same ones.
//
// Each claim is a file in the folder claims/ of the shelf, locked (flock) as long as its program lives: one whose
// program died is free, whatever ended it. One whose program is stopped is free once its lease is over: its program
// sets the time of the file again and again, and finds the file gone where another took the frames. To look at the
// others, to add one's own, and to renew one that is over is done under the one lock of the shelf. Where no claim can
// be kept, on a full disk for instance, that lock itself is held instead, and with it all frames.
#pragma once

#include <filesystem>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "rollout/shelf.h"

namespace optrel {

/// Claims frames for `who` ("A rollout of T. Ester at north-2"), until what it returns is gone. Throws FramesInUse
/// that names who is at work on one of them.
std::unique_ptr<RolloutShelf::Claim> claim_frames(const std::filesystem::path& shelf,
                                                  const std::vector<std::filesystem::path>& frames,
                                                  const std::string& who);

/// The rollouts that claims in this shelf are for, each with the station that is at work on it.
std::map<int, std::string> rollouts_at_work(const std::filesystem::path& shelf);

}  // namespace optrel
