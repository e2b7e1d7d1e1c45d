// SPDX-License-Identifier: GPL-3.0-or-later
// Edits of frame sheets, for window and command line.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "baselines/tier.h"
#include "optics/profile.h"
#include "rollout/sheet.h"
#include "studio/baselines/references.h"

namespace optrel {

/// Parses a value for a field of one frame, with or without unit. Ramps are refused, because a frame has one ISO;
/// profiles and colour files are found by name. Throws Error.
Value hand_value(Field field, const std::string& text, const References& known);

/// Sets a field by hand. Throws Error(input) for an exempt frame.
void set_by_hand(Sheet& sheet, Field field, const Value& value);

/// Removes the value of a field from the highest layer that has it. Returns false when no layer has it.
bool drop_field(Sheet& sheet, Field field);

/// Removes hand-set values, optionally also the set on top; an exempt frame is no longer exempt.
void back_to_baseline(Sheet& sheet, bool with_set);

/// Removes all layers and exempts the frame from rollouts.
void make_bare(Sheet& sheet);

/// Values of a set at an ISO, as a layer. Throws Error(input) for an unknown set.
Layer set_layer(const Revision& revision, const std::string& set, double iso);

/// Puts a set on top of the baseline, in place of the previous one. Throws Error(input) for an exempt frame.
void put_set_on_top(Sheet& sheet, const Layer& set);

/// Hand-set values of a frame, to be copied to others: the given fields, or all. Throws Error(input) when a field is
/// not hand-set, or none is.
Layer taken_by_hand(const Sheet& from, const std::vector<Field>& fields);
/// Changes that copying values would make to a sheet; none on an exempt one.
struct HandChange {
    Field field;
    std::optional<Value> before;  ///< nothing: no layer has a value
    Value after;
};
std::vector<HandChange> changes_by(const Layer& values, const Sheet& to);

/// Result of editing many frames.
struct SheetsEdited {
    int changed = 0, same = 0;
    std::vector<std::string> failed;  ///< one sentence for each frame that could not be edited
};
/// Edits the sheet of each frame under its lock. A failure does not stop the others.
SheetsEdited edit_sheets(const std::vector<std::filesystem::path>& frames,
                         const std::function<void(const std::filesystem::path&, Sheet&)>& edit, Progress& progress);

}  // namespace optrel
