// SPDX-License-Identifier: GPL-3.0-or-later
// Rollouts in the tables of a store on a server, so that any station can finish or take back what another began.
#pragma once

#include "rollout/shelf.h"

namespace optrel::postgres {

class PostgresEngine;

class TableShelf final : public RolloutShelf {
public:
    explicit TableShelf(PostgresEngine& engine) : engine_(engine) {}
    std::vector<RolloutRecord> list() override;
    /// A lease in the store (server_lease.h). The claim has a connection of its own.
    std::unique_ptr<Claim> claim(const std::vector<std::filesystem::path>& frames, const std::string& who) override;
    std::string plan_hash(const std::vector<RolloutEntry>& entries) override;
    void begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) override;
    void keep(const RolloutRecord& record, const std::vector<RolloutEntry>& entries) override;
    RolloutRecord record(int number) override;
    std::vector<RolloutEntry> entries(const RolloutRecord& record) override;
    void set_status(int number, RolloutStatus status) override;
    void give_up(int number) override;

private:
    template <class Work>
    auto with_engine(const Work& work);

    PostgresEngine& engine_;
};

}  // namespace optrel::postgres
