// SPDX-License-Identifier: GPL-3.0-or-later
// Rollouts in the tables of a server store, so that any station can finish or roll back what another began.
#pragma once

#include <functional>
#include <memory>
#include <thread>

#include "rollout/rollout_store.h"

namespace optrel {
class Engine;
}

namespace optrel::postgres {

class TableRolloutStore final : public RolloutStore {
public:
    /// `open`: opens another connection to the same store for the calling thread.
    TableRolloutStore(Engine& engine, std::function<std::unique_ptr<Engine>()> open)
        : engine_(engine), open_(std::move(open)) {}
    std::vector<RolloutRecord> list() const override;
    /// Leases the frames (server_lease.h), with a separate connection.
    std::unique_ptr<Lease> lease(const std::vector<std::filesystem::path>& frames, const std::string& who) override;
    std::string plan_hash(const std::vector<RolloutEntry>& entries) const override;
    void begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) override;
    void keep(const RolloutRecord& record, const std::vector<RolloutEntry>& entries) override;
    RolloutRecord record(int number) const override;
    std::vector<RolloutEntry> entries(const RolloutRecord& record) const override;
    void set_status(int number, RolloutStatus status) override;
    void give_up(int number) override;

private:
    template <class Work>
    auto with_engine(const Work& work) const;

    Engine& engine_;
    const std::function<std::unique_ptr<Engine>()> open_;
    const std::thread::id owner_ = std::this_thread::get_id();
};

}  // namespace optrel::postgres
