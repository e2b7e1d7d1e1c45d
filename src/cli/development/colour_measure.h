// SPDX-License-Identifier: GPL-3.0-or-later
// Commands about measured colours, which stand below the command colour.
#pragma once

#include <CLI/CLI.hpp>

namespace optrel::cli {

/// Adds the command "colour measure".
void add_colour_measure(CLI::App& colour);
/// Adds the command "colour alike".
void add_colour_alike(CLI::App& colour);
/// Adds the command "colour neutral".
void add_colour_neutral(CLI::App& colour);

}  // namespace optrel::cli
