// SPDX-License-Identifier: GPL-3.0-or-later
// Sidecars that a rollout did not write, with the reason as a type, so that they can be counted and filtered.
#pragma once

#include <filesystem>
#include <string>

namespace optrel {

enum class UnwrittenReason {
    hand_set,  ///< set by hand; found by the rehearsal, like the next one
    exempt,
    changed_since,    ///< somebody changed the sidecar since the rehearsal or the rollout; it is kept
    frame_gone,       ///< the frame is missing, but not its folder
    no_file,          ///< a folder, a pipe or a device stands in the frame's place
    folder_left_out,  ///< the folder is missing or empty, and is left out as wished
    folder_gone,      ///< the folder is missing or empty, as when its share is not there
    write_failed,
    unreadable,    ///< found by the rehearsal
    other_station  ///< another station took the frames over
};
/// "changed-since".
std::string to_string(UnwrittenReason reason);

struct UnwrittenSidecar {
    std::filesystem::path frame;
    UnwrittenReason reason = UnwrittenReason::changed_since;
    std::string detail = {};  ///< sentence of an error; empty for the other reasons

    /// The sidecar stays as it is, and nothing is to be done.
    bool kept() const;
    /// Going on with the rollout tries it again.
    bool failed() const;
    std::string sentence() const;
};

}  // namespace optrel
