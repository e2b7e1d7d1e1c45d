// Each command of optrel-cli registers itself with the parser and does its work in a callback. Results go to standard output,
// messages to standard error.
#pragma once

#include <CLI/CLI.hpp>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "base/progress.h"

namespace optrel::cli {

void add_calibrate(CLI::App& app);
void add_chart(CLI::App& app);
void add_map(CLI::App& app);
void add_rig(CLI::App& app);
void add_run(CLI::App& app);
void add_store(CLI::App& app);
/// Below the command store: register, fleet, identities, claim.
void add_register(CLI::App& store);
void add_draft(CLI::App& app);
/// Below the command baseline: lint, compare, sets, reach.
void add_baseline_checks(CLI::App& baseline);
void add_frame(CLI::App& app);
void add_resolve(CLI::App& app);
void add_correct(CLI::App& app);
void add_rollout(CLI::App& app);

/// One JSON document on standard output.
void print_json(const nlohmann::json& document);

/// The --store option that all commands on a store share; the default is the user's store.
void add_store_option(CLI::App& command, std::string& folder);
std::filesystem::path store_folder(const std::string& given);

/// Shows "Measuring frames 3 / 13" on standard error when that is a terminal; Ctrl-C cancels the work.
Progress& console_progress();

}  // namespace optrel::cli
