// SPDX-License-Identifier: GPL-3.0-or-later
// The rollouts of a store, with their frames where they lie now.
#pragma once

#include <map>

#include "store/store.h"

namespace optrel {

/// What was written for a frame that was moved since goes along with it, forwards and back.
class FollowedShelf final : public RolloutShelf {
public:
    explicit FollowedShelf(Store& store) : shelf_(store.rollouts()), moves_(store.frames().moves()) {}

    std::vector<RolloutRecord> list() override { return shelf_.list(); }
    std::unique_ptr<Claim> claim(const std::vector<std::filesystem::path>& frames, const std::string& who) override {
        return shelf_.claim(frames, who);
    }
    void begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) override {
        shelf_.begin(record, entries);
    }
    void keep(const RolloutRecord& record, const std::vector<RolloutEntry>& entries) override {
        shelf_.keep(record, entries);
    }
    RolloutRecord record(int number) override { return shelf_.record(number); }
    std::vector<RolloutEntry> entries(const RolloutRecord& record) override {
        std::vector<RolloutEntry> out = shelf_.entries(record);
        if (moves_.empty()) return out;
        for (RolloutEntry& e : out)
            if (const auto to = moves_.find(e.frame.string()); to != moves_.end()) e.frame = to->second;
        return out;
    }
    void set_status(int number, RolloutStatus status) override { shelf_.set_status(number, status); }
    void give_up(int number) override { shelf_.give_up(number); }

private:
    RolloutShelf& shelf_;
    const std::map<std::string, std::filesystem::path> moves_;
};

}  // namespace optrel
