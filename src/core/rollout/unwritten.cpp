// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/unwritten.h"

#include <fmt/format.h>

#include "base/words.h"
#include "rollout/sheet.h"

namespace optrel {

std::string to_string(UnwrittenReason reason) {
    switch (reason) {
        case UnwrittenReason::hand_set: return "hand-set";
        case UnwrittenReason::exempt: return "exempt";
        case UnwrittenReason::changed_since: return "changed-since";
        case UnwrittenReason::frame_gone: return "frame-gone";
        case UnwrittenReason::no_file: return "no-file";
        case UnwrittenReason::folder_left_out: return "folder-left-out";
        case UnwrittenReason::folder_gone: return "folder-gone";
        case UnwrittenReason::write_failed: return "write-failed";
        case UnwrittenReason::unreadable: return "unreadable";
        default: return "other-station";
    }
}

bool UnwrittenSidecar::kept() const {
    switch (reason) {
        case UnwrittenReason::hand_set:
        case UnwrittenReason::exempt:
        case UnwrittenReason::changed_since:
        case UnwrittenReason::frame_gone:
        case UnwrittenReason::no_file:
        case UnwrittenReason::folder_left_out: return true;
        default: return false;
    }
}

bool UnwrittenSidecar::failed() const {
    return reason == UnwrittenReason::folder_gone || reason == UnwrittenReason::write_failed;
}

std::string UnwrittenSidecar::sentence() const {
    const std::string name = printable(frame.string());
    switch (reason) {
        case UnwrittenReason::hand_set: return fmt::format("{} is kept: it is set by hand.", name);
        case UnwrittenReason::exempt: return fmt::format("{} is kept: it is exempt.", name);
        case UnwrittenReason::changed_since:
            return fmt::format("{} was changed since and is kept as it is.", printable(sidecar_path(frame).string()));
        case UnwrittenReason::frame_gone:
            return fmt::format("The frame {} is gone, so nothing was written for it.", name);
        case UnwrittenReason::no_file:
            return fmt::format(
                "The frame {} is no file any more: a folder, a pipe or a device stands in its place, so nothing was "
                "written for it.",
                name);
        case UnwrittenReason::folder_left_out: return fmt::format("The folder of {} is gone, so it is left out.", name);
        case UnwrittenReason::folder_gone:
            return fmt::format("The folder of {} is gone or empty, as when its share is not there.", name);
        case UnwrittenReason::other_station: return "Another station goes on with the rollout.";
        default: return detail;
    }
}

}  // namespace optrel
