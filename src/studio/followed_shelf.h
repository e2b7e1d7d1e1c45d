// SPDX-License-Identifier: GPL-3.0-or-later
// The rollouts of a store, with their frames where they lie now, and told in its history.
#pragma once

#include <map>

#include "store/store.h"

namespace optrel {

/// What was written for a frame that was moved since goes along with it, forwards and back. Like the shelf of a store,
/// it may be asked from any thread, one at a time.
class FollowedShelf final : public RolloutShelf {
public:
    explicit FollowedShelf(Store& store)
        : store_(store.source()), shelf_(store.rollouts()), moves_(store.frames().moves()) {}

    std::vector<RolloutRecord> list() override { return shelf_.list(); }
    std::unique_ptr<Claim> claim(const std::vector<std::filesystem::path>& frames, const std::string& who) override {
        return shelf_.claim(frames, who);
    }
    std::string plan_hash(const std::vector<RolloutEntry>& entries) override { return shelf_.plan_hash(entries); }
    void begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) override;
    void keep(const RolloutRecord& record, const std::vector<RolloutEntry>& entries) override {
        shelf_.keep(record, entries);
    }
    RolloutRecord record(int number) override { return shelf_.record(number); }
    std::vector<RolloutEntry> entries(const RolloutRecord& record) override;
    void set_status(int number, RolloutStatus status) override;
    void give_up(int number) override;

private:
    void tell(int number, const std::string& author, const std::string& what, const std::string& after) noexcept;

    StoreSource store_;
    RolloutShelf& shelf_;
    const std::map<std::string, std::filesystem::path> moves_;
};

}  // namespace optrel
