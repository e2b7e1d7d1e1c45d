// SPDX-License-Identifier: GPL-3.0-or-later
// Rollouts as folders of files, named by their numbers; making the folder claims the number.
//
// A rollout's folder holds who, when and how many (`record.json`), the bytes of every sidecar before and after
// (`data`), the list of frames
// (`plan.json`), all flushed to the disk, and then its `status`. One that has no status never touched a sidecar.
#pragma once

#include "rollout/shelf.h"

namespace optrel {

/// Stateless but for the folder, so any thread may use it.
class FolderShelf final : public RolloutShelf {
public:
    explicit FolderShelf(std::filesystem::path root) : root_(std::move(root)) {}

    std::vector<RolloutRecord> list() override;
    std::unique_ptr<Claim> claim(const std::vector<std::filesystem::path>& frames, const std::string& who) override;
    void begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) override;
    void keep(const RolloutRecord& record, const std::vector<RolloutEntry>& entries) override;
    RolloutRecord record(int number) override;
    std::vector<RolloutEntry> entries(const RolloutRecord& record) override;
    void set_status(int number, RolloutStatus status) override;
    void give_up(int number) override;

    std::filesystem::path folder(int number) const;

private:
    void write(const RolloutRecord& record, const std::vector<RolloutEntry>& entries);

    std::filesystem::path root_;
};

}  // namespace optrel
