// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/lease_marks.h"

#include <fmt/format.h>

#include <cstring>

#include "base/error.h"
#include "base/files.h"
#include "base/words.h"
#include "rollout/rollout_store.h"

namespace optrel {

LeaseMarks::LeaseMarks(const std::vector<Frame>& frames) {
    for (const auto& [known_as, path] : frames) frames_.emplace(fnv1a(known_as), path);
}

std::string LeaseMarks::bytes() const {
    std::string out;
    out.reserve(frames_.size() * sizeof(std::uint64_t));
    for (const auto& [mark, path] : frames_) out.append(reinterpret_cast<const char*>(&mark), sizeof mark);
    return out;
}

void LeaseMarks::require_apart(const std::string& who, const std::string& others) const {
    const std::filesystem::path* first = nullptr;
    int both = 0;
    for (std::size_t at = 0; at + sizeof(std::uint64_t) <= others.size(); at += sizeof(std::uint64_t)) {
        std::uint64_t mark = 0;
        std::memcpy(&mark, others.data() + at, sizeof mark);
        if (const auto it = frames_.find(mark); it != frames_.end() && ++both == 1) first = it->second;
    }
    if (both > 0)
        throw FramesInUse(
            fmt::format("{} is at work on {} of these frames, {} among them; wait until it is done, then try again.",
                        printable(who), both, printable(first->filename().string())));
}

}  // namespace optrel
