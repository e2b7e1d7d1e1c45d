// SPDX-License-Identifier: GPL-3.0-or-later
// The options that say what becomes of frames that arrive in a folder.
#pragma once

#include "commands.h"

namespace optrel::cli {

void add_intake_options(CLI::App& command, IntakeFolder& how);

}  // namespace optrel::cli
