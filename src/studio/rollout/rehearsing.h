// SPDX-License-Identifier: GPL-3.0-or-later
// Rehearsal of a revision over frames of a store.
#pragma once

#include <memory>
#include <vector>

#include "base/progress.h"
#include "rollout/rollout.h"
#include "store/store.h"
#include "studio/frames/frame_scope.h"

namespace optrel {

/// Input of a rehearsal, as values that a worker thread can keep.
struct RehearsalRequest {
    using Frames = std::vector<FrameRecord>;
    std::shared_ptr<const Frames> frames;  ///< all known frames; shared, because there may be very many
    FrameScope scope;
    bool renew_hand_set = false;  ///< update the baseline below hand-set fields
    bool one_core = false;        ///< use one core only
    /// All profile versions, to note the version that each frame gets; null: versions are not noted.
    std::shared_ptr<const std::vector<Profile>> profiles = nullptr;
};

/// All profile versions of a store, for a request.
std::shared_ptr<const std::vector<Profile>> profiles_of(const Store& store);

/// What the revision would change. Throws Error(input) when no revision is published, and as frames_of() does.
Rehearsal rehearse_frames(const RehearsalRequest& request, const Fleet& fleet, const Revision& revision,
                          Progress& progress);

}  // namespace optrel
