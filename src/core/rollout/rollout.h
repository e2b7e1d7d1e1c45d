// Rolling out and back, so that a stop at any instant leaves every sidecar whole.
//
// A rollout is a folder of the store, named by its number; making the folder claims the number. Before the first
// sidecar is written, it holds who, when and how many (`record.json`), the bytes of every sidecar before and after
// (`data`) and the list of frames
// (`plan.json`), all flushed to the disk; then its status begins. What has been done is told by the sidecars
// themselves: one that equals its bytes after is done, one that equals its bytes before is not, any other was changed
// by somebody and is kept.
//
// One rollout or roll back works on a store at a time: each holds the lock of the rollouts' folder, and another is told
// so. A sidecar that cannot be written is listed and the rest goes on; the rollout then stays open, to be resumed.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/progress.h"
#include "rollout/rehearse.h"

namespace optrel {

/// preparing: stopped before the first sidecar was touched. damaged: its record cannot be read.
enum class RolloutStatus { preparing, writing, done, rolling_back, rolled_back, damaged };
std::string to_string(RolloutStatus status);

struct RolloutRecord {
    int number = 0;
    std::filesystem::path folder;
    int revision = 0;
    std::string author, time;
    int frames = 0;
    RolloutStatus status = RolloutStatus::writing;
    std::string problem;  ///< of a damaged one
};

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

/// All rollouts below a folder, newest first. A damaged one is listed as such.
std::vector<RolloutRecord> list_rollouts(const std::filesystem::path& root);

/// Writes what was rehearsed. Throws Error(input) without writing anything when a sidecar or the revision changed
/// since, or when another rollout works on this store.
RolloutReport roll_out(const Rehearsal& rehearsal, int current_revision, const std::filesystem::path& root,
                       const std::string& author, Progress& progress);

/// Goes on with a rollout or a roll back that was stopped. Throws Error(input) when another works on this store, or it
/// never began.
RolloutReport resume(const RolloutRecord& record, Progress& progress);

/// Restores every sidecar byte for byte, except those changed since, which are listed and kept. What is to be removed
/// goes first, so that it works on a full disk too. Of a rollout that never began there is nothing to restore. Throws
/// Error(input) as resume() does.
RolloutReport roll_back(const RolloutRecord& record, Progress& progress);

}  // namespace optrel
