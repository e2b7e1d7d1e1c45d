// SPDX-License-Identifier: GPL-3.0-or-later
// Rollouts of a store, with the current paths of moved frames; changes are added to the history.
#pragma once

#include <map>

#include "store/store.h"

namespace optrel {

/// Sidecars of frames that were moved since are written at their new place. Like the store itself, it may be used from
/// any thread, one at a time.
/// Reads rollouts; frames that were moved since are found where they are now.
class RelocatedRollouts {
public:
    explicit RelocatedRollouts(const Store& store) : rollouts_(store.rollouts()), moves_(store.frames().moves()) {}

    std::vector<RolloutRecord> list() const { return rollouts_.list(); }
    RolloutRecord record(int number) const { return rollouts_.record(number); }
    std::vector<RolloutEntry> entries(const RolloutRecord& record) const;

private:
    const RolloutStore& rollouts_;
    const std::map<std::string, std::filesystem::path> moves_;
};

class RelocatingRolloutStore final : public RolloutStore {
public:
    explicit RelocatingRolloutStore(Store& store)
        : store_(store.source()), rollouts_(store.rollouts()), relocated_(store) {}

    std::vector<RolloutRecord> list() const override { return rollouts_.list(); }
    std::unique_ptr<Lease> lease(const std::vector<std::filesystem::path>& frames, const std::string& who) override {
        return rollouts_.lease(frames, who);
    }
    std::string plan_hash(const std::vector<RolloutEntry>& entries) const override {
        return rollouts_.plan_hash(entries);
    }
    void begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) override;
    void keep(const RolloutRecord& record, const std::vector<RolloutEntry>& entries) override {
        rollouts_.keep(record, entries);
    }
    RolloutRecord record(int number) const override { return rollouts_.record(number); }
    std::vector<RolloutEntry> entries(const RolloutRecord& record) const override { return relocated_.entries(record); }
    void set_status(int number, RolloutStatus status) override;
    void give_up(int number) override;

private:
    void tell(int number, const std::string& author, const std::string& what, const std::string& after) noexcept;

    StoreSource store_;
    RolloutStore& rollouts_;
    const RelocatedRollouts relocated_;
};

}  // namespace optrel
