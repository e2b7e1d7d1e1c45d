// Each command of optrel-cli registers itself with the parser and does its work in a callback. Results go to standard output,
// messages to standard error.
#pragma once

#include <CLI/CLI.hpp>
#include <nlohmann/json.hpp>

#include "base/progress.h"

namespace optrel::cli {

void add_calibrate(CLI::App& app);
void add_map(CLI::App& app);
void add_rig(CLI::App& app);

/// One JSON document on standard output.
void print_json(const nlohmann::json& document);

/// Shows "Measuring frames 3 / 13" on standard error when that is a terminal; Ctrl-C cancels the work.
Progress& console_progress();

}  // namespace optrel::cli
