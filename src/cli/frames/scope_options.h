// SPDX-License-Identifier: GPL-3.0-or-later
// The options that say which frames a command is about.
#pragma once

#include "cli/commands.h"
#include "studio/frames/frame_scope.h"

namespace optrel::cli {

struct ScopeOptions {
    std::vector<std::string> folders, jobs, bodies, lenses, states, frames;
    std::string iso, from, to, selection;
    bool alone = false;
};
void add_scope_options(CLI::App& command, ScopeOptions& options);
/// What they say, together with the selection that is named. Throws Error(usage) and Error(input).
FrameScope scope_from(const ScopeOptions& options, const Store& store);

}  // namespace optrel::cli
