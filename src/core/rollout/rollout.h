// SPDX-License-Identifier: GPL-3.0-or-later
// Rollout and rollback that survive an interruption at any instant with every sidecar intact.
//
// Before the first sidecar is written, the store holds the contents of every sidecar before and after. The progress
// follows from the sidecars themselves: a sidecar that equals its contents after is done, one that equals its contents
// before is pending, and any other was changed by somebody else and is kept.
//
// A rollout or rollback leases its frames (RolloutStore::Lease) and checks the lease before each sidecar and again
// directly before the rename, so that a process that lost its lease writes nothing more. A sidecar that cannot be
// written is reported, and the work continues; the rollout stays open and can be resumed.
#pragma once

#include <filesystem>
#include <functional>
#include <map>
#include <string>
#include <vector>

#include "base/progress.h"
#include "rollout/rehearse.h"
#include "rollout/rollout_store.h"
#include "rollout/unwritten.h"

namespace optrel {

struct RolloutReport {
    RolloutRecord record;
    int written = 0;
    std::vector<UnwrittenSidecar> unwritten;  ///< in the order in which they were found
    bool paused = false;                      ///< interrupted on request; to be resumed
    /// The lease was lost while this process was suspended; another station continues.
    bool lost = false;
    /// The unwritten sidecars for which `is` returns true.
    std::vector<UnwrittenSidecar> those(bool (UnwrittenSidecar::*is)() const) const;
    std::vector<UnwrittenSidecar> kept() const { return those(&UnwrittenSidecar::kept); }
    std::vector<UnwrittenSidecar> failed() const { return those(&UnwrittenSidecar::failed); }
    std::vector<UnwrittenSidecar> unreadable() const { return those(&UnwrittenSidecar::unreadable); }
    int count(UnwrittenReason reason) const;
    bool complete() const { return failed().empty() && !paused && !lost; }
};

/// Author and scope of a rollout, for the history.
struct RolloutOrder {
    std::string author, station;
    std::string scope;    ///< description; empty: all frames
    DayHours hours = {};  ///< hours in which it may write

    RolloutOrder(std::string by) : author(std::move(by)) {}  // NOLINT(google-explicit-constructor)
    RolloutOrder(const char* by) : author(by) {}             // NOLINT(google-explicit-constructor)
};

/// Called before each sidecar; when it returns false, the rollout pauses. Null: never pauses.
using MayGoOn = std::function<bool()>;

/// Options for writing the sidecars.
struct WriteOptions {
    MayGoOn may = {};
    /// Skip frames whose folder is missing or empty. By default they count as failures, because an unmounted share
    /// looks the same, and the rollout stays open.
    bool leave_gone = false;
};

/// The sidecars that a rehearsal would write.
std::vector<RolloutEntry> entries_of(const Rehearsal& rehearsal);

/// Writes what was rehearsed. Throws Error(input), before anything is written, when a sidecar or the revision has
/// changed since, or when another rollout holds a frame.
RolloutReport roll_out(const Rehearsal& rehearsal, int current_revision, RolloutStore& rollouts,
                       const RolloutOrder& order, Progress& progress, const WriteOptions& manner = {});

/// Continues an interrupted rollout or rollback. Throws Error(input) when another process holds its frames, or when the
/// rollout never began.
RolloutReport resume(RolloutStore& rollouts, int number, Progress& progress, const WriteOptions& manner = {});

/// Restores every sidecar byte for byte, except sidecars that were changed since, which are reported and kept.
/// Deletions come first, so that it works on a full disk. A rollout in preparation has nothing to restore. Throws
/// Error(input) as resume() does.
RolloutReport roll_back(RolloutStore& rollouts, int number, Progress& progress, const WriteOptions& manner = {});

/// Repeats a rollout that was rolled back; sidecars that were changed since are kept. Throws Error(input) when it is
/// not rolled back, and as resume() does.
RolloutReport roll_again(RolloutStore& rollouts, int number, Progress& progress);

/// Rolls back some frames of a rollout, as a new rollout that can itself be rolled back. Throws Error(input) when
/// `chosen` selects none of its frames, and as roll_back() does.
RolloutReport roll_back_part(RolloutStore& rollouts, int number,
                             const std::function<bool(const std::filesystem::path&)>& chosen, const RolloutOrder& order,
                             Progress& progress);

}  // namespace optrel
