// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/rollout/relocating_rollout_store.h"

#include <fmt/format.h>

namespace optrel {

void RelocatingRolloutStore::begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) {
    rollouts_.begin(record, entries);
    tell(record.number, record.author, "begin", fmt::format("revision {}, {} frames", record.revision, record.frames));
}

std::vector<RolloutEntry> RelocatedRollouts::entries(const RolloutRecord& record) const {
    std::vector<RolloutEntry> out = rollouts_.entries(record);
    if (moves_.empty()) return out;
    for (RolloutEntry& e : out)
        if (const auto to = moves_.find(e.frame.string()); to != moves_.end()) e.frame = to->second;
    return out;
}

void RelocatingRolloutStore::set_status(int number, RolloutStatus status) {
    rollouts_.set_status(number, status);
    tell(number, "", to_string(status), "");
}

void RelocatingRolloutStore::give_up(int number) {
    rollouts_.give_up(number);
    tell(number, "", "give up", "");
}

/// Uses its own store handle, because any thread may call it. Failures are ignored: the rollout is stored already, and
/// a full disk must not prevent finishing or rolling it back.
void RelocatingRolloutStore::tell(int number, const std::string& author, const std::string& what,
                                  const std::string& after) noexcept {
    try {
        Store store = store_.open_for_writing();
        store.history().append({"", author, "rollout", std::to_string(number), what, "", after});
    } catch (const std::exception&) {
    }
}

}  // namespace optrel
