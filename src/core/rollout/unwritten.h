// SPDX-License-Identifier: GPL-3.0-or-later
// Sidecars that a rollout did not write, with the reason as a type, so that they can be counted and filtered.
#pragma once

#include <filesystem>
#include <string>

namespace optrel {

enum class UnwrittenReason {
    hand_set,         ///< a person set it by hand, as the rehearsal found
    exempt,           ///< a person exempted the frame, as the rehearsal found
    changed_since,    ///< somebody changed the sidecar since the rehearsal or the rollout; it is kept
    frame_gone,       ///< the frame is missing, but not its folder
    no_file,          ///< a folder, a pipe or a device stands in the frame's place
    folder_left_out,  ///< the folder is missing or empty, and is left out as wished
    folder_gone,      ///< the folder is missing or empty, as when its share is not there
    write_failed,
    unreadable,    ///< the rehearsal could not read the frame or its sidecar
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
    /// Resuming the rollout tries to write it again.
    bool failed() const;
    bool unreadable() const { return reason == UnwrittenReason::unreadable; }
    std::string sentence() const;
};

}  // namespace optrel
