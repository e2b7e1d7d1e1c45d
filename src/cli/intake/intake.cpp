// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli intake: watched folders of a store, and the log of arrivals.
#include <fmt/format.h>

#include "base/times.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/intake/intake_options.h"
#include "studio/baselines/frame_sheets.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct IntakeOptions {
    std::string store, folder, hours, author;
    IntakeFolder how;
    int most = 50;
    bool off = false, json = false;
};

std::string words_of(const IntakeFolder& f) {
    std::vector<std::string> parts;
    parts.emplace_back(f.only_index ? "frames wait for a person" : "frames get their baseline");
    if (!f.set.empty())
        parts.push_back(fmt::format("set {} on top{}", f.set, f.set_until.empty() ? "" : " until " + f.set_until));
    if (f.raw_only) parts.emplace_back("rendered pictures wait");
    if (f.unknown_waits) parts.emplace_back("those of unknown bodies wait");
    if (!f.hours.whole_day()) parts.push_back("taken in at " + to_string(f.hours));
    if (!f.on) parts.emplace_back("off");
    return fmt::format("{}", fmt::join(parts, "; "));
}

void add_folder(IntakeOptions& o) {
    Store store = open_store(o.store, Access::write);
    IntakeFolder f = o.how;
    f.folder = o.folder;
    f.hours = day_hours_from(o.hours);
    f.on = !o.off;
    f.author = author_or_me(o.author);
    f.time = utc_now();
    const Revision current = store.baselines().current();
    if (!f.set.empty()) set_layer(current, f.set, 100);  // throws for an unknown one
    store.intake().put(f);
}

void list_folders(const IntakeOptions& o) {
    const Store store = open_store(o.store, Access::read);
    json all = json::array();
    for (const IntakeFolder& f : store.intake().folders()) {
        if (!o.json) fmt::print("{}  {}\n", f.folder.string(), words_of(f));
        all.push_back({{"folder", f.folder.string()},
                       {"set", f.set},
                       {"set_until", f.set_until},
                       {"only_index", f.only_index},
                       {"raw_only", f.raw_only},
                       {"unknown_waits", f.unknown_waits},
                       {"hours", to_string(f.hours)},
                       {"on", f.on},
                       {"author", f.author},
                       {"time", f.time}});
    }
    end_list(all, o.json, "No folder is watched.");
}

void list_arrivals(const IntakeOptions& o) {
    const Store store = open_store(o.store, Access::read);
    json all = json::array();
    for (const ArrivalRecord& a : store.intake().newest(o.most)) {
        if (!o.json)
            fmt::print("{}  {}  {}  {}\n", a.time, a.frame.string(), a.what,
                       a.why.empty() ? fmt::format("baseline {}, rollout {}", a.revision, a.rollout) : a.why);
        all.push_back({{"time", a.time},
                       {"way", a.way},
                       {"frame", a.frame.string()},
                       {"event", a.what},
                       {"why", a.why},
                       {"body", a.body},
                       {"set", a.set},
                       {"revision", a.revision},
                       {"rollout", a.rollout}});
    }
    end_list(all, o.json, "Nothing has arrived yet.");
}

}  // namespace

void add_intake(CLI::App& app) {
    auto* command = add_command(app, "intake", "Folders that are watched, and what has arrived in them",
                                "intake add /shoots/today --set Evening");
    command->require_subcommand(1);
    auto o = std::make_shared<IntakeOptions>();
    const auto sub = [&](const char* name, const char* what, const char* example) {
        auto* s = add_command(*command, name, what, example);
        add_store_option(*s, o->store);
        return s;
    };
    auto* adding = sub("add", "Keep a folder to be watched, or say anew what becomes of its frames",
                       "intake add /shoots/today --set Evening --hours 20:00-07:00");
    adding->add_option("folder", o->folder, "The folder, with those beneath it")->required();
    add_intake_options(*adding, o->how);
    adding->add_option("--hours", o->hours,
                       "Take frames in at these hours alone, by this station's clock: 22:00-06:00");
    adding->add_flag("--off", o->off, "Keep it, but do not watch it now");
    adding->add_option("--author", o->author, "Who says so [default: the login name]");
    adding->callback([o] { add_folder(*o); });
    auto* removing = sub("remove", "Stop watching a folder; its frames are not changed", "intake remove /shoots/today");
    removing->add_option("folder", o->folder, "The folder")->required();
    removing->callback([o] { open_store(o->store, Access::write).intake().remove(o->folder); });
    auto* listing = sub("list", "The folders that are watched", "intake list");
    listing->add_flag("--json", o->json, "Print JSON");
    listing->callback([o] { list_folders(*o); });
    auto* log = sub("log", "What has arrived, newest first", "intake log --most 20");
    log->add_option("--most", o->most, "How many lines")->check(between(1, 100000))->capture_default_str();
    log->add_flag("--json", o->json, "Print JSON");
    log->callback([o] { list_arrivals(*o); });
}

}  // namespace optrel::cli
