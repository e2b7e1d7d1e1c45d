// SPDX-License-Identifier: GPL-3.0-or-later
// Drift: sidecars that differ from what the latest rollout wrote, and frames that were moved or deleted.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "store/store.h"

namespace optrel {

enum class Drift {
    missing,     ///< the sidecar was deleted
    older,       ///< the sidecar has an older revision
    newer,       ///< the sidecar has a revision that this studio never published
    by_hand,     ///< hand-set fields were changed since
    by_another,  ///< the baseline was changed by another station or program
    unreadable,  ///< damaged, a folder, a link, or not a sidecar of Optrel
    frame_gone,  ///< the frame is missing and was not found elsewhere
    moved,       ///< the frame was moved
    orphaned,    ///< a sidecar without a frame
    behind       ///< rolled out with an older version of its lens profile, and the picture would change
};
inline constexpr int drift_count = 10;
std::string to_string(Drift kind);
/// Whether settle_drift() can fix this kind; the others need a person.
bool settled_without_a_person(Drift kind);
/// How to fix this kind, one sentence.
std::string what_settles(Drift kind);

struct DriftFinding {
    Drift kind = Drift::missing;
    std::filesystem::path frame;     ///< path of the frame; for an orphan, of the sidecar
    std::filesystem::path moved_to;  ///< new path of a moved frame
    std::string what;                ///< short description
    int rollout = 0;                 ///< last rollout that wrote the sidecar; 0: none
};

struct DriftReport {
    int frames = 0;  ///< number of frames that were checked
    std::vector<DriftFinding> findings;
    std::vector<std::string> problems;  ///< unreadable folders, one sentence each
    std::filesystem::path next;         ///< where to continue after a cancellation; empty: finished
};

/// Checks all frames in the order of their paths, beginning after `start_after`. For missing frames, the known folders
/// are searched for the same contents under other names. Nothing is written. A cancellation returns a partial report
/// that says where to continue.
DriftReport check_drift(const Store& store, const std::filesystem::path& start_after, Progress& progress);

/// The first half for some frames: missing frames are reported and not searched for. Throws Cancelled.
DriftReport check_frames(const Store& store, const std::vector<FrameRecord>& frames, Progress& progress);
/// The second half for the whole store: searches for the missing frames of a report, and finds sidecars without frames.
void look_for_moved(const Store& store, DriftReport& report, Progress& progress);

struct Settled {
    int settled = 0;
    std::vector<std::string> failed;  ///< one sentence for each failure
};
/// Fixes what needs no person: writes missing sidecars again, and records the new paths of moved frames, including
/// their sidecars. Other kinds are skipped.
Settled settle_drift(Store& store, const std::vector<DriftFinding>& findings, Progress& progress);

}  // namespace optrel
