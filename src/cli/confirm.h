// SPDX-License-Identifier: GPL-3.0-or-later
// Broad actions say first what they would reach. On a terminal they ask; in a script they go on by themselves only
// where few frames change.
#pragma once

#include <CLI/CLI.hpp>
#include <string>

#include "store/store.h"
#include "studio/rollout/frames_reached.h"

namespace optrel::cli {

void add_yes_flag(CLI::App& command, bool& yes);

/// Tells what would be done, and no more.
void tell_reach(const std::string& what, const FramesReached& reach);

/// Tells what would be done, and returns when it is to be done. Throws Error(input), with nothing done, when a person
/// says no, and in a script over the studio's limit without --yes.
void confirm(const Store& store, const std::string& what, const FramesReached& reach, bool yes);
/// The same where only the number of frames is known.
void confirm(const Store& store, const std::string& what, int frames, bool yes);

}  // namespace optrel::cli
