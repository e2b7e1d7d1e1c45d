// SPDX-License-Identifier: GPL-3.0-or-later
// A selection of frames, for rollouts, exports and lists, which can be saved under a name.
//
// Several values of one criterion are combined by "or" (two bodies), different criteria by "and" (a body and a day).
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
    bool beneath = true;                  ///< folders, including subfolders
    std::vector<std::string> jobs;        ///< names of parent folders, ignoring case
    std::vector<std::string> bodies;      ///< names, tags or camera names, ignoring case
    std::vector<std::string> lenses;      ///< names, tags or lens texts, ignoring case
    std::optional<int> iso_from, iso_to;  ///< range, both ends included
    std::string day_from, day_to;         ///< dates of the frames, "2026-03-01", both ends included
    std::vector<FrameState> states;
    std::vector<std::filesystem::path> frames;  ///< explicit list of frames

    bool all() const { return *this == FrameScope(); }
    bool operator==(const FrameScope&) const = default;
};

/// Frames of a scope, in their order. Throws Error(input) for every value that matches no frame, because a typing error
/// must not look like a small selection, and for invalid dates. Frames with unreadable sidecars match every state, so
/// that they are reported.
std::vector<FrameRecord> frames_of(const FrameScope& scope, const std::vector<FrameRecord>& all, const Fleet& fleet,
                                   const Progress& progress);

/// Text for users: "folder /shoots/east; body North 2; ISO 800 to 6400"; empty for all frames.
std::string in_words(const FrameScope& scope);

/// Conversion to and from a document. Throws Error(input) for an invalid document or an unknown criterion.
std::string scope_to_json(const FrameScope& scope);
FrameScope scope_from_json(const std::string& document, const std::string& where);

/// Throws Error(input) with similar words.
FrameState frame_state_from(const std::string& word);

}  // namespace optrel
