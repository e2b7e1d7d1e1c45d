// SPDX-License-Identifier: GPL-3.0-or-later
// Effect of a broad action, computed before it is carried out: frames that get another body, lens, settings or
// correction.
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

/// Everything that determines what frames get.
struct StudioState {
    std::shared_ptr<const Fleet> fleet;
    std::shared_ptr<const std::vector<Profile>> profiles;  ///< all versions
    std::shared_ptr<const Revision> revision;
};
StudioState studio_state(const Store& store);

struct FramesReached {
    int looked_at = 0;     ///< number of known frames
    int frames = 0;        ///< frames that change in any way
    int bodies = 0;        ///< frames that get another body, or none
    int lenses = 0;        ///< frames that get another lens, or none
    int off_register = 0;  ///< frames that report a registered number but would get something else
    int pixels = 0;    ///< frames that look different: another correction, or other settings while they have no sidecar
    int exported = 0;  ///< of these, frames that were exported from the queue
    double largest_px = 0;                         ///< largest displacement
    std::map<std::filesystem::path, int> folders;  ///< folders of the changed frames, with counts
    std::vector<std::filesystem::path> examples;   ///< the first changed frames, as examples

    /// Summary: "212 of 553 frames change: 12 get another body, 200 look different (by up to 1.32 px; 5 of them were
    /// exported)".
    std::string sentence() const;
    /// Folders with most changed frames, one line each.
    std::vector<std::string> folder_lines(std::size_t most = 6) const;
};

/// Effect of replacing one state by another. Nothing is written.
FramesReached reach_between(const Store& store, const StudioState& before, const StudioState& after,
                            Progress& progress);

/// Effect of an edit of the register.
FramesReached reach_of(const Store& store, const FleetEdit& edit, Progress& progress);

/// Throws Error(input) when frames would lose a body or lens whose registered number they report.
void require_register_kept(const FramesReached& reached);

// Versions after the change.
std::vector<Profile> with_next_version(std::vector<Profile> versions, const Profile& published);
std::vector<Profile> with_withdrawn(std::vector<Profile> versions, const std::string& id, int version);
std::vector<Profile> with_current(std::vector<Profile> versions, const std::string& id, int version);
/// Effect of these profile versions.
FramesReached reach_of_versions(const Store& store, std::vector<Profile> versions, Progress& progress);

/// Effect of a revision, or of publishing a draft.
FramesReached reach_of_revision(const Store& store, const Revision& revision, Progress& progress);

/// Number of frames that a script may change without --yes; the studio can configure it.
int frames_without_asking(const Store& store);
void put_frames_without_asking(Store& store, int frames);

}  // namespace optrel
