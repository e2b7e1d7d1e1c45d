// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/profiles/behind_versions.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "studio/frames/knowledge.h"
#include "studio/profiles/versions_in_use.h"

namespace optrel {

std::set<std::string> current_versions(const std::vector<Profile>& versions) {
    std::set<std::string> out;
    for (const Profile& p : versions)
        if (p.state.is_current()) out.insert(fmt::format("{}@{}", p.id, p.version));
    return out;
}

std::vector<BehindVersion> behind_versions(const std::vector<NotedFrame>& noted, const Fleet& fleet,
                                           const std::shared_ptr<const std::vector<Profile>>& profiles) {
    VersionsInUse versions(profiles);
    std::map<std::pair<std::string, std::string>, BehindVersion> found;
    for (const auto& [frame, sheet] : noted) {
        const auto change = versions.change(*sheet, know(frame.path, frame.metadata, fleet).metadata);
        if (!change) continue;
        BehindVersion& b = found[{change->before, change->after}];
        b.before = change->before;
        b.after = change->after;
        ++b.frames;
        b.largest_px = std::max(b.largest_px, change->moves_px);
    }
    std::vector<BehindVersion> out;
    for (auto& [key, b] : found) out.push_back(std::move(b));
    std::stable_sort(out.begin(), out.end(),
                     [](const BehindVersion& a, const BehindVersion& b) { return a.frames > b.frames; });
    return out;
}

}  // namespace optrel
