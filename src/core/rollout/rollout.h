// SPDX-License-Identifier: GPL-3.0-or-later
// Rolling out and back, so that a stop at any instant leaves every sidecar whole.
//
// Before the first sidecar is written, the shelf (shelf.h) holds the bytes of every sidecar before and after. What has
// been done is told by the sidecars themselves: one that equals its bytes after is done, one that equals its bytes
// before is not, any other was changed by somebody and is kept.
//
// One rollout or roll back works on a frame at a time, and another that wants it is told so. It has its frames by a
// lease (RolloutShelf::Claim), which is looked at before each sidecar and again right before that takes its place:
// whoever was stopped until another one took the frames writes nothing more. A sidecar that cannot be
// written is listed and the rest goes on; the rollout then stays open, to be resumed.
#pragma once

#include <filesystem>
#include <functional>
#include <map>
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
    /// Why a frame does not have what was rolled out, of each that was kept, that failed, or that another one goes on
    /// with.
    std::map<std::filesystem::path, std::string> unwritten;
    int gone = 0;         ///< of those that failed: in folders that are gone or empty
    bool paused = false;  ///< it may not go on for now, and is to be resumed
    /// This program was stopped for so long that another one has the frames by now, and goes on with them.
    bool lost = false;
    bool complete() const { return failed.empty() && !paused && !lost; }
};

/// Who rolls out what, as the history tells it.
struct RolloutOrder {
    std::string author, station;
    std::string scope;    ///< in words; empty: all frames
    DayHours hours = {};  ///< when it may write

    RolloutOrder(std::string by) : author(std::move(by)) {}  // NOLINT(google-explicit-constructor)
    RolloutOrder(const char* by) : author(by) {}             // NOLINT(google-explicit-constructor)
};

/// Asked before each sidecar; false: the rollout stops there, and is to be resumed. None: always.
using MayGoOn = std::function<bool()>;

/// How the sidecars are carried.
struct CarryManner {
    MayGoOn may = {};
    /// Frames whose folder is gone or empty are left out for good. Otherwise they are listed as failed, since a share
    /// that is not there looks like that, and the rollout waits for them.
    bool leave_gone = false;
};

/// The sidecars that a rehearsal would write.
std::vector<RolloutEntry> entries_of(const Rehearsal& rehearsal);

/// Writes what was rehearsed. Throws Error(input) without writing anything when a sidecar or the revision changed
/// since, or when another rollout works on one of the frames.
RolloutReport roll_out(const Rehearsal& rehearsal, int current_revision, RolloutShelf& shelf, const RolloutOrder& order,
                       Progress& progress, const CarryManner& manner = {});

/// Goes on with a rollout or a roll back that was stopped. Throws Error(input) when another works on its frames, or it
/// never began.
RolloutReport resume(RolloutShelf& shelf, int number, Progress& progress, const CarryManner& manner = {});

/// Restores every sidecar byte for byte, except those changed since, which are listed and kept. What is to be removed
/// goes first, so that it works on a full disk too. Of a rollout that never began there is nothing to restore. Throws
/// Error(input) as resume() does.
RolloutReport roll_back(RolloutShelf& shelf, int number, Progress& progress, const CarryManner& manner = {});

/// Rolls out again what was rolled back, of which sidecars changed since are kept. Throws Error(input) for one that is
/// not rolled back, and as resume() does.
RolloutReport roll_again(RolloutShelf& shelf, int number, Progress& progress);

/// Takes back some frames of a rollout: a rollout of its own, that can be taken back like any. Throws Error(input) when
/// `chosen` takes none of its frames, and as roll_back() does.
RolloutReport roll_back_part(RolloutShelf& shelf, int number,
                             const std::function<bool(const std::filesystem::path&)>& chosen, const RolloutOrder& order,
                             Progress& progress);

}  // namespace optrel
