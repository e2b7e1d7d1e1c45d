// SPDX-License-Identifier: GPL-3.0-or-later
// What of a studio goes into a bundle.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/progress.h"
#include "store/store.h"
#include "travel/bundle.h"

namespace optrel {

/// What somebody wants in it, by names or ids as people give them. What that needs comes along: the sets that a set
/// builds on, profiles and colour files that are pinned, the model of a body, claims that tie numbers to it.
struct PackingList {
    std::vector<std::string> profiles;  ///< id, ID@VERSION, or the name of its lens
    std::vector<std::string> sets, tiers;
    std::vector<std::string> bodies, lenses, colours;
    int baseline = 0;  ///< number of a revision that goes along whole; 0: none
    /// All that these frames need: the tiers of the current revision that apply to them, their profiles, bodies,
    /// lenses and colour files.
    std::vector<FrameRecord> frames;
    bool empty() const {
        return profiles.empty() && sets.empty() && tiers.empty() && bodies.empty() && lenses.empty() &&
               colours.empty() && baseline == 0 && frames.empty();
    }
};

struct BundleLabel {
    std::string title, note, sender;
};

/// Sets and tiers are those of the draft; by frames, of the current revision. Claims by folder, time or frame stay
/// here: they mean nothing elsewhere. Throws Error(input) for a name that nothing has, or when nothing is left to pack.
Bundle packed(Store& store, const PackingList& list, const BundleLabel& label, const Progress& progress);

/// "2 profiles, 1 set, 3 tiers".
std::string contents_of(const Bundle& bundle);

}  // namespace optrel
