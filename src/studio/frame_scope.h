// SPDX-License-Identifier: GPL-3.0-or-later
// Which frames a rollout is about: one rule for the window and the command line, which can be given a name and kept.
//
// What is said of one kind is "or" (two bodies: frames of either), what is said of several kinds is "and" (a body and a
// day: frames of that body on that day).
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "fleet/fleet.h"
#include "rollout/sheet.h"
#include "store/frames.h"

namespace optrel {

struct FrameScope {
    std::vector<std::filesystem::path> folders;
    bool beneath = true;                  ///< with the folders beneath those
    std::vector<std::string> jobs;        ///< names of folders on the way to a frame, in any case
    std::vector<std::string> bodies;      ///< names, marks or camera names, in any case
    std::vector<std::string> lenses;      ///< names, marks or lens texts, in any case
    std::optional<int> iso_from, iso_to;  ///< both included
    std::string day_from, day_to;         ///< when the frame was taken, "2026-03-01", both included
    std::vector<FrameState> states;
    std::vector<std::filesystem::path> frames;  ///< these alone

    bool all() const { return *this == FrameScope(); }
    bool operator==(const FrameScope&) const = default;
};

/// The frames of a scope, in their order. Throws Error(input) for each thing that is said and that no frame has: a
/// mistyped name must not look like a small scope; and for days that there are not, or that end before they begin.
/// Frames whose sidecar cannot be read belong to any state, so that they are told and not passed over.
std::vector<FrameRecord> frames_of(const FrameScope& scope, const std::vector<FrameRecord>& all, const Fleet& fleet,
                                   const Progress& progress);

/// "folder /shoots/east; body North 2; ISO 800 to 6400"; empty for all frames.
std::string in_words(const FrameScope& scope);

/// As a document, and back. Throws Error(input) for what is none, or names what this version does not know.
std::string scope_to_json(const FrameScope& scope);
FrameScope scope_from_json(const std::string& document, const std::string& where);

/// Throws Error(input) with the nearest words.
FrameState frame_state_from(const std::string& word);

}  // namespace optrel
