// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli watch: intake without a window.
#include <fmt/format.h>

#include <chrono>

#include "base/error.h"
#include "base/files.h"
#include "base/paths.h"
#include "base/spans.h"
#include "base/times.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/intake/arrival_log.h"
#include "cli/intake/intake_options.h"
#include "exchange/file_name.h"
#include "studio/intake/watching.h"

namespace optrel::cli {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

struct WatchOptions {
    std::string store, author;
    std::vector<std::string> folders;
    IntakeFolder how;
    double still = 1.5;
    bool once = false, json = false;
};

/// Folders from the options, otherwise those of the store.
std::vector<IntakeFolder> folders_of(const WatchOptions& o) {
    std::vector<IntakeFolder> out;
    if (o.folders.empty()) {
        const Store store = open_store(o.store, Access::read);
        for (IntakeFolder& f : store.intake().folders())
            if (f.on) out.push_back(std::move(f));
        if (out.empty())
            throw input_error(
                "The store keeps no folder that is watched; name one with --folder, or keep one by 'intake add'.");
    }
    for (const std::string& folder : o.folders) {
        std::error_code failed;
        if (!fs::is_directory(folder, failed))
            throw input_error(
                fmt::format("{} is no folder; name one that is there, or make it first.", printable(folder)));
        IntakeFolder f = o.how;
        f.folder = plain_path(folder);
        out.push_back(std::move(f));
    }
    return out;
}

void run_watch(WatchOptions& o) {
    if (o.folders.empty() && !(o.how == IntakeFolder()))
        throw usage_error(
            "What becomes of frames is said for --folder alone; the folders of the store say it themselves.");
    require_sound(o.how);
    const StoreSource source = open_store(o.store, Access::read).source();
    const std::unique_ptr<StoreHold> claim = o.folders.empty() ? intake_claim(source) : nullptr;
    if (o.folders.empty() && !claim)
        throw input_error(
            "The folders of this store are watched already by another program or station; end that first.");
    ArrivalLog log(o.json);
    std::vector<std::string> problems;
    Watching watching(
        source, folders_of(o), author_or_me(o.author),
        {std::chrono::milliseconds(static_cast<int>(o.still * 1000)), o.once, [&] { return !claim || claim->held(); }},
        {[&](const ArrivalResult& t, const IntakeReport& report, const IntakeFolder& folder) {
             log.frame(t, report, folder.set);
         },
         [&](const std::string& sentence) {
             problems.push_back(sentence);
             log.say(sentence);
         }});
    until_ended([&](Progress& progress) {
        while (watching.step(progress)) continue;
        if (o.once) fail_with(problems);
    });
}

}  // namespace

void require_sound(const IntakeFolder& how) {
    if (!how.set_until.empty() && how.set.empty())
        throw usage_error("--set-until is for a set; name one with --set, or leave it out.");
}

void add_copy_name_option(CLI::App& command, const char* flag, std::string& pattern) {
    command
        .add_option(flag, pattern, "File name with tokens: " + all_of(name_tokens()) + " in braces; a / makes folders")
        ->capture_default_str();
}

void add_intake_options(CLI::App& command, IntakeFolder& how) {
    command.add_option("--set", how.set, "A set of the baseline to put on top of every frame");
    command
        .add_option(
            "--set-until", how.set_until,
            "After that the set is left out: 2026-03-01, 2026-03-01T18:00, or with a zone, 2026-03-01T18:00:00Z")
        ->transform(CLI::Validator(
            [](std::string& text) {
                try {
                    text = utc_moment_from(text);
                    return std::string();
                } catch (const Error& error) {
                    return std::string(error.what());
                }
            },
            "TIME"));
    command.add_flag("--only-index", how.only_index, "Frames become known and wait; no baseline is written");
    command.add_flag("--raw-only", how.raw_only, "Rendered pictures become known and wait");
    command.add_flag("--unknown-waits", how.unknown_waits,
                     "Raw frames of unknown bodies wait, and do not get the baseline of their model");
}

void add_watch(CLI::App& app) {
    auto o = std::make_shared<WatchOptions>();
    auto* command = add_command(app, "watch", "Take in frames as they arrive in folders: each gets its baseline, once",
                                "watch --store studio --folder /shoots/today --set \"Infrared leaves\"");
    add_store_option(*command, o->store);
    command->add_option("--folder", o->folders,
                        "Folders to watch, with those beneath them [default: those that the store keeps]");
    add_intake_options(*command, o->how);
    command->add_option("--still", o->still, "Seconds for which a file has to stand still to count as complete")
        ->check(between(0.1, 600))
        ->capture_default_str();
    command->add_option("--author", o->author, "Who rolls out [default: the login name]");
    command->add_flag("--once", o->once, "Take in what is there, and end");
    command->add_flag("--json", o->json, "A line of JSON for each event");
    command->callback([o] { run_watch(*o); });
}

}  // namespace optrel::cli
