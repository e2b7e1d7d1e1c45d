// SPDX-License-Identifier: GPL-3.0-or-later
// Rehearsals that this station remembers by a number. A rollout by that number writes exactly what the person saw in
// the rehearsal; if something has changed since, it says what and writes nothing.
#pragma once

#include <string>
#include <vector>

#include "rollout/rehearse.h"
#include "store/store.h"
#include "studio/frame_scope.h"

namespace optrel {

/// What was rehearsed: over which frames, and what would be written to each.
struct KeptRehearsal {
    int number = 0;
    int revision = 0;
    bool renew_hand_set = false;
    FrameScope scope;
    std::map<std::string, std::string> writes;  ///< frame (as the store keeps it) to a hash of what is written
};

/// Remembers it; returns its number, counted for each store. The newest hundred are kept. `folder`: where; empty: with
/// the user's data. Throws Error(file) when that cannot be written.
int keep_rehearsal(Store& store, const Rehearsal& rehearsal, const FrameScope& scope,
                   const std::filesystem::path& folder = {});

/// Throws Error(input) for a number that this station does not remember of this store.
KeptRehearsal kept_rehearsal(Store& store, int number, const std::filesystem::path& folder = {});

/// What would be written now and was not rehearsed, or the other way round: one sentence each, none where all is the
/// same.
std::vector<std::string> changes_since(Store& store, const KeptRehearsal& then, const Rehearsal& now);

}  // namespace optrel
