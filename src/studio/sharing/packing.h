// SPDX-License-Identifier: GPL-3.0-or-later
// Selects the contents of a bundle.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/progress.h"
#include "sharing/bundle.h"
#include "store/store.h"

namespace optrel {

/// Requested contents, by names or ids. Dependencies are added: included sets, pinned profiles and colour files,
/// measurements that pins derive from, the model of a body, and claims by serial number.
struct PackingList {
    std::vector<std::string> profiles;  ///< id, ID@VERSION, or name of the lens
    std::vector<std::string> sets, tiers;
    std::vector<std::string> bodies;  ///< with what was measured of them, but for fingerprints
    std::vector<std::string> lenses, colours;
    std::vector<std::string> measurements;  ///< of any kind: id, or ID@VERSION
    int baseline = 0;                       ///< number of a revision to include as a whole; 0: none
    /// Everything that these frames need: matching tiers of the current revision, and their profiles, bodies, lenses,
    /// colour files, and the current measurements of their bodies that act on them.
    std::vector<FrameRecord> frames;
    bool empty() const {
        return profiles.empty() && sets.empty() && tiers.empty() && bodies.empty() && lenses.empty() &&
               colours.empty() && measurements.empty() && baseline == 0 && frames.empty();
    }
};

struct BundleLabel {
    std::string title, note, sender;
};

/// Sets and tiers come from the draft; for frames, from the current revision. Claims by folder, time or frame are left
/// out, because they are meaningless elsewhere. Throws Error(input) for an unknown name, and for an empty bundle.
Bundle packed(const Store& store, const PackingList& list, const BundleLabel& label, const Progress& progress);

/// "2 profiles, 1 set, 3 tiers".
std::string contents_of(const Bundle& bundle);

}  // namespace optrel
