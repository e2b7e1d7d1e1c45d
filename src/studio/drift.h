// SPDX-License-Identifier: GPL-3.0-or-later
// Drift: sidecars that are not what the newest rollout of their frame left, and frames that are not where they were.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "store/store.h"

namespace optrel {

enum class Drift {
    missing,     ///< a sidecar was written and is gone
    older,       ///< its revision is an older one than was written
    newer,       ///< its revision is one that this studio has not published
    by_hand,     ///< a person set something since, or took it back
    by_another,  ///< its baseline is not the one that was written: another station or program did
    unreadable,  ///< damaged, a folder, a link, or not Optrel's
    frame_gone,  ///< the frame is not there, nor anywhere else that is known
    moved,       ///< the frame lies elsewhere
    orphaned,    ///< a sidecar without its frame, whose frame is not known to have moved
    behind       ///< rolled out with another version of its lens profile than it gets now, and looks different
};
inline constexpr int drift_count = 10;
std::string to_string(Drift kind);
/// Whether settle_drift() settles one of a kind; others are for a person.
bool settled_without_a_person(Drift kind);
/// What settles one of a kind, in a sentence.
std::string what_settles(Drift kind);

struct DriftFinding {
    Drift kind = Drift::missing;
    std::filesystem::path frame;     ///< as the store knows it; of an orphan: its sidecar
    std::filesystem::path moved_to;  ///< of moved
    std::string what;                ///< in a few words
    int rollout = 0;                 ///< that wrote its sidecar last; 0: none
};

struct DriftReport {
    int frames = 0;  ///< that were looked at
    std::vector<DriftFinding> findings;
    std::vector<std::string> problems;  ///< folders that could not be looked into
    std::filesystem::path next;         ///< where to go on after a cancel; empty: all was looked at
};

/// Looks at all frames of the store, by path, from the one behind `start_after` on. Where frames are gone, the folders
/// in which the store knows frames are searched for the same contents under other names. Nothing is written. A cancel
/// ends it early: the report then says where to go on.
DriftReport check_drift(Store& store, const std::filesystem::path& start_after, Progress& progress);

/// The first half of it for some frames: what is gone is told as gone, and not looked for elsewhere. Throws Cancelled.
DriftReport check_frames(Store& store, const std::vector<FrameRecord>& frames, Progress& progress);
/// The second half, over the whole store: looks for what a report tells as gone, and adds sidecars without a frame.
void look_for_moved(Store& store, DriftReport& report, Progress& progress);

struct Settled {
    int settled = 0;
    std::vector<std::string> failed;  ///< one sentence for each that could not be
};
/// Settles what can be settled without a person: a missing sidecar is written again as it was, and of a moved frame the
/// store learns the new place, to which its sidecar goes along where it stayed behind and nothing lies there. Other
/// kinds are passed over.
Settled settle_drift(Store& store, const std::vector<DriftFinding>& findings, Progress& progress);

}  // namespace optrel
