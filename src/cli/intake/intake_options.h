// SPDX-License-Identifier: GPL-3.0-or-later
// The options that say what becomes of frames that arrive in a folder.
#pragma once

#include "cli/commands.h"

namespace optrel::cli {

void add_intake_options(CLI::App& command, IntakeFolder& how);
/// Throws Error(usage) for what does not go together.
void require_sound(const IntakeFolder& how);

/// How copies are named.
void add_copy_name_option(CLI::App& command, const char* flag, std::string& pattern);

}  // namespace optrel::cli
