// SPDX-License-Identifier: GPL-3.0-or-later
// What a person does to the sheets of frames: the rules, once, for window and command line.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "baselines/tier.h"
#include "optics/profile.h"
#include "rollout/sheet.h"
#include "studio/references.h"

namespace optrel {

/// The value that a text means for a field of one frame: with or without its unit. A frame has one ISO, so a ramp is
/// refused; profiles and colour files are looked up. Throws Error.
Value hand_value(Field field, const std::string& text, const References& known);

/// Sets one field by hand. Throws Error(input) for an exempt frame.
void set_by_hand(Sheet& sheet, Field field, const Value& value);

/// Drops what the highest layer that has it says of a field. False when no layer does.
bool drop_field(Sheet& sheet, Field field);

/// Drops what was set by hand, and the set on top if asked; an exempt frame comes back.
void back_to_baseline(Sheet& sheet, bool with_set);

/// Drops every layer and takes the frame out of rollouts.
void make_bare(Sheet& sheet);

/// What a set of the baseline says for a frame at an ISO, as a layer. Throws Error(input) for a set that is not there.
Layer set_layer(const Revision& revision, const std::string& set, double iso);

/// Puts a set on top of the baseline, in place of the one before. Throws Error(input) for an exempt frame.
void put_set_on_top(Sheet& sheet, const Layer& set);

/// Values by hand of one frame, to be put on others: those of the fields, or all when none is named. Throws
/// Error(input) when one is not set by hand, or nothing is.
Layer taken_by_hand(const Sheet& from, const std::vector<Field>& fields);
/// What putting values by hand changes on a sheet; nothing on an exempt one.
struct HandChange {
    Field field;
    std::optional<Value> before;  ///< nothing: no layer says anything of it
    Value after;
};
std::vector<HandChange> changes_by(const Layer& values, const Sheet& to);

/// What became of an edit of many frames.
struct SheetsEdited {
    int changed = 0, same = 0;
    std::vector<std::string> failed;  ///< one sentence for each frame that could not be edited; the others were
};
/// Edits the sheet of each frame under its lock; one that fails does not stop the others.
SheetsEdited edit_sheets(const std::vector<std::filesystem::path>& frames,
                         const std::function<void(const std::filesystem::path&, Sheet&)>& edit, Progress& progress);

}  // namespace optrel
