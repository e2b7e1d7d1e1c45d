// SPDX-License-Identifier: GPL-3.0-or-later
// Everything that is derived from frames, register and claims: bodies, lenses, identities, profiles in use.
#pragma once

#include <map>
#include <string>
#include <unordered_map>
#include <vector>

#include "fleet/identities.h"
#include "studio/frames/knowledge.h"
#include "studio/profiles/profile_use.h"

namespace optrel {

struct FleetKnowledge {
    FactsOfFrames facts;  ///< one for each frame
    GroupIndex index;
    const std::vector<FactsGroup>& groups() const { return index.all(); }
    std::vector<FleetBody> bodies;
    RecordedSettings habits;
    double lowest_iso = 100, highest_iso = 12800;  ///< ISO range of the frames, at least this range
    std::vector<Identity> identities;
    std::unordered_map<std::string, int> frames_of_body, frames_of_lens;  ///< by id
    std::vector<LensUse> lens_use;
    std::vector<std::string> folders;          ///< folders that hold frames, sorted
    std::map<std::string, int> missing_roots;  ///< roots without a folder at this station, with the number of frames
};

/// Works everything out on all cores. `profiles`: the current version of each.
FleetKnowledge fleet_knowledge(const std::vector<FrameRecord>& frames, const Fleet& fleet,
                               const std::vector<Profile>& profiles);

}  // namespace optrel
