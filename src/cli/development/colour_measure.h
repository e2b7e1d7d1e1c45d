// SPDX-License-Identifier: GPL-3.0-or-later
// The command that measures colours, which stands below the command colour.
#pragma once

#include <CLI/CLI.hpp>

namespace optrel::cli {

/// Below the command colour: measure.
void add_colour_measure(CLI::App& colour);

}  // namespace optrel::cli
