// SPDX-License-Identifier: GPL-3.0-or-later
// Each command of optrel-cli registers itself with the parser and does its work in a callback. Results go to standard
// output, messages to standard error.
#pragma once

#include <CLI/CLI.hpp>
#include <filesystem>
#include <functional>
#include <nlohmann/json.hpp>

#include "base/output.h"
#include "base/progress.h"
#include "store/store.h"

namespace optrel::cli {

void add_calibrate(CLI::App& app);
void add_chart(CLI::App& app);
void add_colour(CLI::App& app);
void add_map(CLI::App& app);
void add_defects(CLI::App& app);
void add_dust(CLI::App& app);
void add_noise(CLI::App& app);
/// map-image, camera-model, tables.
void add_lens_files(CLI::App& app);
void add_profile(CLI::App& app);
void add_rig(CLI::App& app);
void add_run(CLI::App& app);
void add_store(CLI::App& app);
/// Below the command store: register, fleet, identities, claim.
void add_register(CLI::App& store);
void add_studio(CLI::App& store);
void add_draft(CLI::App& app);
/// Below the command baseline: lint, compare, return.
void add_baseline_checks(CLI::App& baseline);
void add_derive_noise(CLI::App& baseline);
/// Below the command baseline: sets.
void add_sets(CLI::App& baseline);
void add_film(CLI::App& app);
void add_frame(CLI::App& app);
void add_fingerprint(CLI::App& app);
void add_resolve(CLI::App& app);
void add_correct(CLI::App& app);
void add_explain(CLI::App& app);
void add_export(CLI::App& app);
void add_straighten(CLI::App& app);
void add_resolution(CLI::App& app);
void add_rollout(CLI::App& app);
void add_watch(CLI::App& app);
void add_queue(CLI::App& app);
void add_approval(CLI::App& app);
void add_attention(CLI::App& app);
void add_import(CLI::App& app);
void add_intake(CLI::App& app);
void add_camera(CLI::App& app);
void add_bundle(CLI::App& app);
void add_key(CLI::App& app);
void add_exchange(CLI::App& app);

/// One JSON document on standard output.
void print_json(nlohmann::json document);
/// Call it last in a command that lists things. Prints the whole list as one document when JSON is wanted. Otherwise
/// the lines are out already, and `when_empty` is printed if there were none.
void end_list(const nlohmann::json& listed, bool as_json, const char* when_empty);

/// A command below another, with an example at the end of its help.
CLI::App* add_command(CLI::App& parent, const std::string& name, const std::string& what, const std::string& example);

/// The --store option that all commands on a store share; the default is the user's store.
void add_store_option(CLI::App& command, std::string& folder);
Store open_store(const std::string& given, Access access);

/// The --overwrite flag of all commands that write a file, and what it means.
void add_overwrite_flag(CLI::App& command, bool& overwrite);
inline Existing existing(bool overwrite) { return overwrite ? Existing::replace_ours : Existing::keep; }

/// A finite number in a range; what is no number, or NaN, is refused.
CLI::Validator between(double low, double high);

/// A whole number in a range.
CLI::Validator whole(int low, int high);

/// "15x10" as two whole numbers in a range. Throws Error(usage) that names `what` they are.
std::pair<int, int> whole_pair(const std::string& text, const char* what, int low, int high);

/// Writes a document to a file, or prints it when no file was named.
void write_or_print(const std::string& file, const OutputFormat& format, bool overwrite, const std::string& text);

/// The author that was given, or the login name.
std::string author_or_me(const std::string& given);

/// Prints each problem on standard error.
void tell_problems(const std::vector<std::string>& problems);
/// Ends the command when there are any: the first as its error, the others on standard error before it.
void fail_with(const std::vector<std::string>& problems);

/// Thrown once the answer is printed: the work went well, and exit status 3 tells that something serious waits.
struct SomethingWaits : std::exception {};

/// Work that lasts until it is asked to end, by Ctrl-C or by a service manager; what was begun is found again.
void until_ended(const std::function<void(Progress&)>& work);

/// Shows "Measuring frames 3 / 13" on standard error when that is a terminal; Ctrl-C cancels the work.
Progress& console_progress();

}  // namespace optrel::cli
