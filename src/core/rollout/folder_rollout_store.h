// SPDX-License-Identifier: GPL-3.0-or-later
// Rollouts as numbered folders; creating the folder allocates the number.
//
// The folder of a rollout holds `record.json` (author, time, count), `data` (contents of every sidecar before and
// after) and `plan.json` (list of frames), all flushed to disk, and finally `status`. A rollout without a status has
// not touched any sidecar.
#pragma once

#include "rollout/rollout_store.h"

namespace optrel {

/// Has no state except the folder; thread-safe.
class FolderRolloutStore final : public RolloutStore {
public:
    explicit FolderRolloutStore(std::filesystem::path root) : root_(std::move(root)) {}

    std::vector<RolloutRecord> list() const override;
    std::unique_ptr<Lease> lease(const std::vector<std::filesystem::path>& frames, const std::string& who) override;
    void begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) override;
    void keep(const RolloutRecord& record, const std::vector<RolloutEntry>& entries) override;
    RolloutRecord record(int number) const override;
    std::vector<RolloutEntry> entries(const RolloutRecord& record) const override;
    void set_status(int number, RolloutStatus status) override;
    void give_up(int number) override;

    std::filesystem::path folder(int number) const;

private:
    void write(const RolloutRecord& record, const std::vector<RolloutEntry>& entries);

    std::filesystem::path root_;
};

}  // namespace optrel
