// SPDX-License-Identifier: GPL-3.0-or-later
// Numbered rehearsals of this station. A rollout by number writes exactly what the user saw; when something has changed
// since, it reports the changes and writes nothing.
#pragma once

#include <string>
#include <vector>

#include "rollout/rehearse.h"
#include "store/store.h"
#include "studio/frames/frame_scope.h"

namespace optrel {

/// A rehearsal: its scope, and what it would write for each frame.
struct KeptRehearsal {
    int number = 0;
    int revision = 0;
    bool renew_hand_set = false;
    FrameScope scope;
    std::map<std::string, std::string> writes;  ///< frame (as the store keeps it) to a hash of the new sidecar
};

/// Saves a rehearsal and returns its number, counted per store. The newest hundred are kept. `folder`: where; empty:
/// the user's data directory. Throws Error(file).
int keep_rehearsal(const Store& store, const Rehearsal& rehearsal, const FrameScope& scope,
                   const std::filesystem::path& folder = {});

/// Throws Error(input) for an unknown number.
KeptRehearsal kept_rehearsal(const Store& store, int number, const std::filesystem::path& folder = {});

/// Differences between what would be written now and what was rehearsed, one sentence each; empty: none.
std::vector<std::string> changes_since(const Store& store, const KeptRehearsal& then, const Rehearsal& now);

}  // namespace optrel
