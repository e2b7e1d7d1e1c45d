// SPDX-License-Identifier: GPL-3.0-or-later
// What a broad action reaches: the frames that get another body, another lens, other settings or another correction,
// told before it is done.
#pragma once

#include <filesystem>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "base/progress.h"
#include "fleet/fleet.h"
#include "optics/profile.h"
#include "store/store.h"

namespace optrel {

/// What decides what frames get.
struct StudioState {
    std::shared_ptr<const Fleet> fleet;
    std::shared_ptr<const std::vector<Profile>> profiles;  ///< all versions
    std::shared_ptr<const Revision> revision;
};
StudioState studio_state(Store& store);

struct FramesReached {
    int looked_at = 0;     ///< frames that the store knows
    int frames = 0;        ///< that change in one way or another
    int bodies = 0;        ///< get another body, or none
    int lenses = 0;        ///< get another lens, or none
    int off_register = 0;  ///< report a number that the register holds, and get something else all the same
    int pixels = 0;        ///< look different: another correction, or, while nothing is written to them, other settings
    int exported = 0;      ///< of those that look different: were exported from the queue
    double largest_px = 0;                         ///< by which a place of the picture moves
    std::map<std::filesystem::path, int> folders;  ///< of frames that change
    std::vector<std::filesystem::path> examples;   ///< the first few frames that change

    /// "212 of 553 frames change: 12 get another body, 200 look different (by up to 1.32 px; 5 of them were exported)".
    std::string sentence() const;
    /// The folders with most of them, one line each.
    std::vector<std::string> folder_lines(std::size_t most = 6) const;
};

/// What changes for the frames of a store when one state takes the place of another. Nothing is written.
FramesReached reach_between(Store& store, const StudioState& before, const StudioState& after, Progress& progress);

/// What an edit of the register would change.
FramesReached reach_of(Store& store, const FleetEdit& edit, Progress& progress);

/// Throws Error(input) when frames would leave a body or a lens whose number they report and the register holds.
void require_register_kept(const FramesReached& reached);

// Versions as they would be.
std::vector<Profile> with_next_version(std::vector<Profile> versions, const Profile& published);
std::vector<Profile> with_withdrawn(std::vector<Profile> versions, const std::string& id, int version);
std::vector<Profile> with_current(std::vector<Profile> versions, const std::string& id, int version);
/// What frames would get with these versions.
FramesReached reach_of_versions(Store& store, std::vector<Profile> versions, Progress& progress);

/// What frames would get with this revision, or with a draft once it is one.
FramesReached reach_of_revision(Store& store, const Revision& revision, Progress& progress);

/// How many frames a script may change without being told to (--yes); the studio may settle another number.
int frames_without_asking(Store& store);
void put_frames_without_asking(Store& store, int frames);

}  // namespace optrel
