// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "commands.h"
#include "studio/rolling.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct RolloutOptions {
    std::string store, author;
    std::vector<std::string> folders;
    int number = 0;
    bool renew = false, json = false;
};

Rehearsal rehearse_scope(Store& store, const RolloutOptions& o) {
    const RehearsalRequest request{store.frames().all(), {o.folders.begin(), o.folders.end()}, o.renew};
    return rehearse_frames(request, *store.registry().fleet(), store.baselines().current(), console_progress());
}

json rehearsal_json(const Rehearsal& r) {
    json outcomes = json::object(), bodies = json::object(), fields = json::object(), frames = json::array();
    for (const auto& [outcome, n] : r.by_outcome()) outcomes[to_string(outcome)] = n;
    for (const auto& [body, n] : r.by_body()) bodies[body] = {{"changes", n.first}, {"frames", n.second}};
    for (const auto& [field, changes] : r.by_field())
        for (const auto& [change, n] : changes) fields[info(field).id][change] = n;
    for (const RehearsedFrame& f : r.frames) {
        json changes = json::array();
        for (const FieldChange& c : f.changes)
            changes.push_back({{"field", info(c.field).id}, {"before", c.before}, {"after", c.after}});
        json j = {
            {"frame", f.path.string()}, {"outcome", to_string(f.outcome)}, {"writes", f.writes}, {"changes", changes}};
        if (!f.reason.empty()) j["reason"] = f.reason;
        frames.push_back(j);
    }
    return {{"revision", r.revision}, {"outcomes", outcomes},   {"bodies", bodies}, {"fields", fields},
            {"writes", r.writes()},   {"warning", r.warning()}, {"frames", frames}};
}

void print_rehearsal(const Rehearsal& r) {
    fmt::print("Revision {} over {} frames: {} would be written\n", r.revision, r.frames.size(), r.writes());
    for (const auto& [outcome, n] : r.by_outcome()) fmt::print("  {:18} {:6}\n", to_string(outcome), n);
    for (const RehearsedFrame& f : r.frames)
        if (!f.reason.empty()) fmt::print("{}\n", f.reason);
    if (const std::string warning = r.warning(); !warning.empty()) fmt::print("{}\n", warning);
}

void print_report(const RolloutReport& report, bool as_json) {
    if (as_json) {
        print_json({{"rollout", report.record.number},
                    {"revision", report.record.revision},
                    {"status", to_string(report.record.status)},
                    {"complete", report.complete()},
                    {"written", report.written},
                    {"kept", report.kept},
                    {"failed", report.failed},
                    {"unreadable", report.unreadable}});
    } else {
        fmt::print("Rollout {}: {}, {} sidecars written, {} kept, {} failed, {} unreadable\n", report.record.number,
                   to_string(report.record.status), report.written, report.kept.size(), report.failed.size(),
                   report.unreadable.size());
    }
    tell_problems(report.kept);
    tell_problems(report.unreadable);
    tell_problems(report.failed);
    if (!report.complete())
        throw file_error(
            fmt::format("{} sidecars of rollout {} could not be written, the first because: {} Mend that, then "
                        "'rollout resume --number {}' goes on.",
                        report.failed.size(), report.record.number, report.failed.front(), report.record.number));
}

void roll_back(const RolloutOptions& o) {
    // Taking back asks nothing of the database, which cannot be opened for writing on a full disk.
    Store store = open_store(o.store, Access::read);
    const RolloutRecord record = rollout_of(store, o.number);
    if (record.status == RolloutStatus::preparing)
        fmt::print(stderr,
                   "Rollout {} stopped before it wrote anything, so there is nothing to restore; one before it is "
                   "taken back with --number.\n",
                   record.number);
    if (record.status == RolloutStatus::rolled_back)
        fmt::print(stderr, "Rollout {} was rolled back already; one before it is taken back with --number.\n",
                   record.number);
    print_report(take_back(store, record.number, console_progress()), o.json);
}

}  // namespace

void add_rollout(CLI::App& app) {
    auto* command = add_command(app, "rollout", "Rehearse a baseline over frames, write it, take it back",
                                "rollout rehearse --folder shoots/east");
    command->require_subcommand(1);
    auto o = std::make_shared<RolloutOptions>();
    const auto sub = [&](const char* name, const char* what, const char* example) {
        auto* s = add_command(*command, name, what, example);
        add_store_option(*s, o->store);
        s->add_flag("--json", o->json, "Print JSON");
        return s;
    };
    for (const bool apply : {false, true}) {
        auto* s =
            apply ? sub("apply", "Rehearse, then write one sidecar for each frame that changes",
                        "rollout apply --folder shoots/east")
                  : sub("rehearse", "Show what a rollout would change; nothing is written", "rollout rehearse --json");
        s->add_option("--folder", o->folders, "Only frames in these folders and beneath them [default: all frames]");
        s->add_flag("--renew-hand-set", o->renew, "Renew the baseline beneath hand-set fields, which stay");
        if (apply) s->add_option("--author", o->author, "Who rolls out [default: the login name]");
        s->callback([o, apply] {
            Store store = open_store(o->store, apply ? Access::write : Access::read);
            const Rehearsal r = rehearse_scope(store, *o);
            if (apply)
                print_report(roll_out_rehearsed(store, r, author_or_me(o->author), console_progress()), o->json);
            else if (o->json)
                print_json(rehearsal_json(r));
            else
                print_rehearsal(r);
        });
    }
    auto* back = sub("rollback", "Restore every sidecar of a rollout byte for byte", "rollout rollback --number 3");
    back->add_option("--number", o->number, "Which rollout [default: the newest]")->check(CLI::PositiveNumber);
    back->callback([o] { roll_back(*o); });
    auto* again = sub("resume", "Go on with a rollout or a roll back that was stopped", "rollout resume");
    again->add_option("--number", o->number, "Which rollout [default: the newest]")->check(CLI::PositiveNumber);
    again->callback([o] {
        Store store = open_store(o->store, Access::read);
        print_report(go_on(store, rollout_of(store, o->number).number, console_progress()), o->json);
    });
}

}  // namespace optrel::cli
