// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/followed_shelf.h"

#include <fmt/format.h>

namespace optrel {

void FollowedShelf::begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) {
    shelf_.begin(record, entries);
    tell(record.number, record.author, "begin", fmt::format("revision {}, {} frames", record.revision, record.frames));
}

std::vector<RolloutEntry> FollowedShelf::entries(const RolloutRecord& record) {
    std::vector<RolloutEntry> out = shelf_.entries(record);
    if (moves_.empty()) return out;
    for (RolloutEntry& e : out)
        if (const auto to = moves_.find(e.frame.string()); to != moves_.end()) e.frame = to->second;
    return out;
}

void FollowedShelf::set_status(int number, RolloutStatus status) {
    shelf_.set_status(number, status);
    tell(number, "", to_string(status), "");
}

void FollowedShelf::give_up(int number) {
    shelf_.give_up(number);
    tell(number, "", "give up", "");
}

/// By a handle of its own, since any thread may ask. The shelf has the rollout already, and a full disk must not keep
/// it from being finished or taken back, so what cannot be told is left out.
void FollowedShelf::tell(int number, const std::string& author, const std::string& what,
                         const std::string& after) noexcept {
    try {
        Store store = store_.open(Access::write);
        store.history().append({"", author, "rollout", std::to_string(number), what, "", after});
    } catch (const std::exception&) {
    }
}

}  // namespace optrel
