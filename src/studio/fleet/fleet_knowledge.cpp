// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/fleet/fleet_knowledge.h"

#include <algorithm>
#include <set>

#include "store/roots.h"

namespace optrel {

FleetKnowledge fleet_knowledge(const std::vector<FrameRecord>& frames, const Fleet& fleet,
                               const std::vector<Profile>& profiles) {
    FleetKnowledge out;
    out.facts = facts_of(frames, fleet);
    out.index = GroupIndex(out.facts.shared_groups());
    out.bodies = fleet_bodies(fleet, frames, out.facts);
    out.habits = RecordedSettings(out.groups());
    out.identities = identities_of(frames, fleet);
    for (const FactsGroup& g : out.groups()) {
        if (g.facts.iso > 0) {
            out.lowest_iso = std::min(out.lowest_iso, std::max(g.facts.iso, 25.0));
            out.highest_iso = std::max(out.highest_iso, std::min(g.facts.iso, 102400.0));
        }
        out.frames_of_body[g.facts.body] += g.frames;
        out.frames_of_lens[g.facts.lens_copy] += g.frames;
    }
    std::set<std::string> folders;
    for (const FrameRecord& f : frames) {
        folders.insert(f.path.parent_path().string());
        if (const std::string root = RootMap::missing(f.path); !root.empty()) ++out.missing_roots[root];
    }
    out.folders.assign(folders.begin(), folders.end());
    out.lens_use = lens_use(frames, fleet, profiles);
    return out;
}

}  // namespace optrel
