// Rolling out and back, so that a stop at any instant leaves every sidecar whole.
//
// A rollout is a folder. Before the first sidecar is written, it holds the bytes of every sidecar before and after (`data`) and
// the list of frames (`plan.json`), both flushed to the disk; `record.json` tells who, when and how many. What has been done is told by the sidecars themselves: one that
// equals its bytes after is done, one that equals its bytes before is not, any other was changed by somebody and is kept.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/progress.h"
#include "rollout/rehearse.h"

namespace optrel {

enum class RolloutStatus { writing, done, rolling_back, rolled_back };
std::string to_string(RolloutStatus status);

struct RolloutRecord {
    int number = 0;
    std::filesystem::path folder;
    int revision = 0;
    std::string author, time;
    int frames = 0;
    RolloutStatus status = RolloutStatus::writing;
};

struct RolloutReport {
    RolloutRecord record;
    int written = 0;
    std::vector<std::string> kept;  ///< one sentence for each sidecar that somebody changed in between
};

/// All rollouts below a folder, newest first.
std::vector<RolloutRecord> list_rollouts(const std::filesystem::path& root);

/// Writes what was rehearsed. Throws Error(input) without writing anything when a sidecar or the revision changed since.
RolloutReport roll_out(const Rehearsal& rehearsal, int current_revision, const std::filesystem::path& root, const std::string& author, Progress& progress);

/// Goes on with a rollout or a roll back that was stopped.
RolloutReport resume(const RolloutRecord& record, Progress& progress);

/// Restores every sidecar byte for byte, except those changed since, which are listed and kept.
RolloutReport roll_back(const RolloutRecord& record, Progress& progress);

}  // namespace optrel
