// SPDX-License-Identifier: GPL-3.0-or-later
// The options by which commands on one frame say what it is developed with: --frame, and --profile or --store.
#pragma once

#include "cli/commands.h"
#include "studio/development/frame_development.h"

namespace optrel::cli {

struct DevelopmentOptions {
    std::string frame, profile, store;
    CLI::Option* store_option = nullptr;
    bool anyway = false;

    bool by_store() const { return store_option->count() > 0; }
};
void add_development_options(CLI::App& command, DevelopmentOptions& options);

/// Throws Error(usage) when both are given; neither is neutral.
FrameDevelopment development_of(const DevelopmentOptions& options);

}  // namespace optrel::cli
