// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli import: frames and films from a memory card.
#include <fmt/format.h>

#include "base/error.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/intake/intake_options.h"
#include "frames/film_codec.h"
#include "studio/baselines/frame_sheets.h"
#include "studio/intake/card_import.h"
#include "studio/intake/intake.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct CardOptions {
    std::string store, card, to, second;
    ImportOrder order;
    IntakeOrder intake;
    bool preview = false, json = false;
};

json json_of(const ImportedFile& f) {
    json out = {{"from", f.from.string()}, {"what", to_string(f.what)}};
    if (!f.out.empty()) out["out"] = f.out.string();
    if (!f.why.empty()) out["why"] = f.why;
    if (!f.note.empty()) out["note"] = f.note;
    return out;
}

void print_line(const ImportedFile& f, bool preview) {
    if (f.what == ImportedFile::What::failed) return;  // reported at the end
    const char* done = preview ? "would be" : "is";
    if (f.what == ImportedFile::What::there)
        fmt::print("{} is there already: {}\n", f.from.string(), f.out.string());
    else
        fmt::print("{} {} {}{}\n", f.from.string(), done, f.out.string(), f.note.empty() ? "" : " (" + f.note + ")");
}

/// Copied frames get their baseline like arrivals in a watched folder.
void take_in_copies(Store& store, const std::vector<ImportedFile>& files, const CardOptions& o,
                    std::vector<std::string>& problems) {
    const IntakeReport report = optrel::take_in_copies(store, files, o.intake, console_progress());
    problems.insert(problems.end(), report.problems.begin(), report.problems.end());
    int written = 0;
    for (const ArrivalResult& t : report.frames) {
        written += t.what == ArrivalResult::What::baseline;
        if (t.what == ArrivalResult::What::failed) problems.push_back(t.why);
    }
    if (!o.json && written > 0) fmt::print("{} frames got baseline {}.\n", written, report.revision);
}

void run_import(CardOptions& o) {
    if (o.store.empty() && !o.intake.set.empty())
        throw usage_error("A set is put on top by a studio; name it with --store.");
    o.order.card = o.card;
    o.order.to = o.to;
    o.order.second = o.second;
    o.intake.author = author_or_me(o.intake.author);
    std::unique_ptr<Store> store;
    if (!o.store.empty()) store = std::make_unique<Store>(o.store, o.preview ? Access::read : Access::write);
    // Checked before anything is copied.
    if (store && !o.intake.set.empty()) set_layer(store->baselines().current(), o.intake.set, 100);
    const auto fleet = store ? store->registry().fleet() : nullptr;
    const std::vector<ImportedFile> files = o.preview ? import_preview(o.order, fleet.get(), console_progress())
                                                      : import_card(o.order, fleet.get(), console_progress());
    std::vector<std::string> problems;
    json list = json::array();
    for (const ImportedFile& f : files) {
        if (f.what == ImportedFile::What::failed) problems.push_back(f.why);
        if (o.json)
            list.push_back(json_of(f));
        else
            print_line(f, o.preview);
    }
    if (store && !o.preview) take_in_copies(*store, files, o, problems);
    if (o.json) print_json({{"preview", o.preview}, {"files", list}});
    fail_with(problems);
}

}  // namespace

void add_import(CLI::App& app) {
    auto o = std::make_shared<CardOptions>();
    auto* command =
        add_command(app, "import", "Copy frames and films from a card, each verified; the card stays as it is",
                    "import --card /media/card --to /shoots/today --name \"{date}/{name}\"");
    command->add_option("--card", o->card, "Folder of the card")->required();
    command->add_option("--to", o->to, "Folder that is copied into")->required();
    command->add_option("--second", o->second, "A folder for a second copy, on another disk");
    add_copy_name_option(*command, "--name", o->order.file_name);
    command->add_option("--store", o->store, "A studio: bodies by its names, and the copies get their baseline");
    command->add_option("--set", o->intake.set, "A set of the baseline to put on top of every copy");
    command->add_flag("--only-index", o->intake.only_index, "Copies become known and wait; no baseline is written");
    command->add_option("--author", o->intake.author, "Who rolls out [default: the login name]");
    command->add_flag("--preview", o->preview, "Say what would be copied to where; nothing is written");
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { run_import(*o); });
}

}  // namespace optrel::cli
