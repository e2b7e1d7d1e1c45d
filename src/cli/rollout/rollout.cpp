// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include <chrono>
#include <map>
#include <thread>

#include "base/error.h"
#include "base/paths.h"
#include "base/words.h"
#include "cli/confirm.h"
#include "cli/development/sample_lines.h"
#include "cli/frames/scope_options.h"
#include "studio/checks/drift.h"
#include "studio/rollout/kept_rehearsal.h"
#include "studio/rollout/rolling.h"
#include "studio/rollout/samples.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct RolloutOptions {
    std::string store, author, hours, keep_as, start_after;
    ScopeOptions scope;
    int number = 0, samples = 0, rehearsal = 0;
    bool renew = false, one_core = false, all = false, yes = false, json = false, wait = false, now = false,
         settle = false, leave_gone = false;
};

Rehearsal rehearse_scope(const Store& store, const RolloutOptions& o, const FrameScope& scope) {
    return rehearse_frames({std::make_shared<const RehearsalRequest::Frames>(store.frames().all()), scope, o.renew,
                            o.one_core, profiles_of(store)},
                           *store.registry().fleet(), store.baselines().current(), console_progress());
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
    if (r.frames.empty()) fmt::print("No frame is in this scope.\n");
    fmt::print("Revision {} over {} frames: {} would be written\n", r.revision, r.frames.size(), r.writes());
    for (const auto& [outcome, n] : r.by_outcome()) fmt::print("  {:18} {:6}\n", to_string(outcome), n);
    for (const RehearsedFrame& f : r.frames)
        if (!f.reason.empty()) fmt::print("{}\n", f.reason);
    if (const std::string warning = r.warning(); !warning.empty()) fmt::print("{}\n", warning);
}

std::vector<std::string> sentences(const std::vector<UnwrittenSidecar>& list) {
    std::vector<std::string> out;
    for (const UnwrittenSidecar& u : list) out.push_back(u.sentence());
    return out;
}

json unwritten_json(const RolloutReport& report) {
    json out = json::array();
    for (const UnwrittenSidecar& u : report.unwritten)
        out.push_back({{"frame", u.frame.string()}, {"reason", to_string(u.reason)}, {"why", u.sentence()}});
    return out;
}

void print_report(const RolloutReport& report, bool as_json) {
    const RolloutRecord& record = report.record;
    const std::vector<std::string> kept = sentences(report.kept()), failed = sentences(report.failed()),
                                   unreadable = sentences(report.unreadable());
    if (as_json) {
        print_json({{"rollout", record.number},
                    {"revision", record.revision},
                    {"takes_back", record.takes_back},
                    {"status", to_string(record.status)},
                    {"complete", report.complete()},
                    {"paused", report.paused},
                    {"lost", report.lost},
                    {"written", report.written},
                    {"kept", kept},
                    {"failed", failed},
                    {"unreadable", unreadable},
                    {"unwritten", unwritten_json(report)}});
    } else {
        fmt::print(
            "Rollout {}: {}, {} sidecars {}, {} kept, {} failed, {} unreadable\n", record.number,
            to_string(record.status), report.written,
            (record.takes_back || record.status == RolloutStatus::rolled_back) ? "as they were before" : "written",
            kept.size(), failed.size(), unreadable.size());
        if (report.lost)
            fmt::print(
                "This program was stopped for a while, and another station has its frames by now; it goes on with "
                "them there.\n");
        if (report.paused)
            fmt::print("It keeps to {}; 'rollout resume --number {}' goes on then, with --now at once.\n",
                       to_string(record.hours), record.number);
    }
    tell_problems(kept);
    tell_problems(unreadable);
    tell_problems(failed);
    if (const int gone = report.count(UnwrittenReason::folder_gone); gone > 0)
        fmt::print(stderr,
                   "{} of these frames lie in folders that are gone or empty; if their share is only away, bring it "
                   "back, else --leave-gone ends the rollout without them.\n",
                   gone);
    if (!failed.empty())
        throw file_error(
            fmt::format("{} sidecars of rollout {} could not be written, the first because: {} Mend that, then "
                        "'rollout resume --number {}' goes on.",
                        failed.size(), record.number, failed.front(), record.number));
}

/// Continues whenever the hours allow, until everything is written.
RolloutReport wait_for_hours(RolloutReport report, const RolloutOptions& o) {
    Progress& progress = console_progress();
    int written = report.written;
    while (report.paused) {
        fmt::print(stderr, "Rollout {} waits for {}.\n", report.record.number, to_string(report.record.hours));
        while (!report.record.hours.hold_now()) {
            std::this_thread::sleep_for(std::chrono::milliseconds(200));
            progress.check();
        }
        Store store = open_store(o.store, Access::rollouts);
        report = go_on(store, report.record.number, false, progress);
        written += report.written;
    }
    report.written = written;
    return report;
}

/// Hand-set and exempt frames are kept, and reported.
std::vector<UnwrittenSidecar> kept_frames(const Rehearsal& rehearsal) {
    std::vector<UnwrittenSidecar> out;
    for (const RehearsedFrame& f : rehearsal.frames)
        if (!f.writes && (f.outcome == Outcome::kept_hand_set || f.outcome == Outcome::exempt))
            out.push_back({f.path, f.outcome == Outcome::exempt ? UnwrittenReason::exempt : UnwrittenReason::hand_set});
    return out;
}

/// Reports the changes and throws Error(input) when the result would differ from the rehearsal.
void require_as_rehearsed(const Store& store, const KeptRehearsal& then, const Rehearsal& now) {
    const std::vector<std::string> changes = changes_since(store, then, now);
    if (changes.empty()) return;
    tell_problems(changes);
    throw input_error(fmt::format(
        "Rehearsal {} is not what would be written now, so nothing was written; rehearse again and look at it.",
        then.number));
}

/// Input of a rollout: a saved rehearsal, or a scope; all frames only with --all.
FrameScope scope_to_apply(RolloutOptions& o, const Store& store, const std::optional<KeptRehearsal>& rehearsed) {
    const FrameScope said = scope_from(o.scope, store);
    if (rehearsed) {
        if (!said.all() || o.all) throw usage_error("--rehearsal says which frames; leave the others out.");
        o.renew = rehearsed->renew_hand_set;
        return rehearsed->scope;
    }
    if (said.all() && !o.all)
        throw usage_error(
            "Say which frames: by --rehearsal NUMBER as 'rollout rehearse' printed it, by --folder, --body and so on, "
            "or --all for every frame that the store knows.");
    if (!said.all() && o.all) throw usage_error("--all is every frame; leave it, or what narrows it, out.");
    return said;
}

void apply(RolloutOptions o) {
    Store store = open_store(o.store, Access::write);
    std::optional<KeptRehearsal> rehearsed;
    if (o.rehearsal > 0) rehearsed = kept_rehearsal(store, o.rehearsal);
    const FrameScope scope = scope_to_apply(o, store, rehearsed);
    RolloutOrder order(author_or_me(o.author));
    order.hours = day_hours_from(o.hours);
    if (o.wait && order.hours.whole_day())
        throw usage_error("--wait is for hours; name them with --hours, or leave it out.");
    order.scope = in_words(scope);
    const Rehearsal rehearsal = rehearse_scope(store, o, scope);
    if (rehearsed)
        require_as_rehearsed(store, *rehearsed, rehearsal);
    else
        confirm(store, fmt::format("Rolling revision {} out: sidecars to be written", rehearsal.revision),
                rehearsal.writes(), o.yes);
    const std::vector<UnwrittenSidecar> kept = kept_frames(rehearsal);
    RolloutReport report = roll_out_rehearsed(store, rehearsal, order, console_progress());
    if (o.wait) report = wait_for_hours(report, o);
    report.unwritten.insert(report.unwritten.begin(), kept.begin(), kept.end());
    print_report(report, o.json);
}

/// Sample frames, printed when ready.
json look_at_some(const Store& store, const Rehearsal& rehearsal, const RolloutOptions& o) {
    json out = json::array();
    look_at_samples(
        store, rehearsal, static_cast<std::size_t>(o.samples),
        [&](const Sample& s) { out.push_back(tell_sample(s, o.json)); }, console_progress());
    return out;
}

void rehearse_only(const RolloutOptions& o) {
    Store store = open_store(o.store, o.keep_as.empty() ? Access::read : Access::write);
    const FrameScope scope = scope_from(o.scope, store);
    const Rehearsal rehearsal = rehearse_scope(store, o, scope);
    if (!o.keep_as.empty()) store.selections().put(o.keep_as, scope_to_json(scope));
    const int number = keep_rehearsal(store, rehearsal, scope);
    if (!o.json) {
        print_rehearsal(rehearsal);
        if (rehearsal.writes() > 0)
            fmt::print("Rehearsal {0}: 'rollout apply --rehearsal {0}' writes just this.\n", number);
    }
    json samples;
    if (o.samples > 0) samples = look_at_some(store, rehearsal, o);
    if (!o.json) return;
    json whole = rehearsal_json(rehearsal);
    whole["rehearsal"] = number;
    if (o.samples > 0) whole["samples"] = samples;
    print_json(whole);
}

void show(const RolloutOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const RolloutRecord r = rollout_of(store, o.number);
    const Rehearsal difference = difference_of(store, r.number);
    if (o.json) {
        json j = rehearsal_json(difference);
        j["rollout"] = r.number;
        j["author"] = r.author;
        j["time"] = r.time;
        j["station"] = r.station;
        j["scope"] = r.scope;
        j["takes_back"] = r.takes_back;
        j["status"] = to_string(r.status);
        return print_json(j);
    }
    fmt::print("Rollout {}, {}: {} frames, by {} at {}, {}\n", r.number, to_string(r.status), r.frames, r.author,
               r.station.empty() ? "a station that was not kept" : r.station, r.time);
    if (r.takes_back != 0) fmt::print("  takes back a part of rollout {}\n", r.takes_back);
    fmt::print("  scope: {}\n", r.scope.empty() ? "all frames" : r.scope);
    for (const auto& [field, changes] : difference.by_field())
        for (const auto& [change, n] : changes) fmt::print("  {:26} {:36} {:6}\n", info(field).label, change, n);
}

void check(const RolloutOptions& o) {
    Store store = open_store(o.store, o.settle ? Access::write : Access::read);
    const DriftReport report = check_drift(store, plain_path(o.start_after), console_progress());
    Settled settled;
    if (o.settle) settled = settle_drift(store, report.findings, console_progress());
    std::map<Drift, int> counts;
    for (const DriftFinding& d : report.findings) ++counts[d.kind];
    if (o.json) {
        json findings = json::array();
        for (const DriftFinding& d : report.findings) {
            json j = {{"kind", to_string(d.kind)}, {"frame", printable(d.frame.string())}, {"what", printable(d.what)}};
            if (!d.moved_to.empty()) j["moved_to"] = printable(d.moved_to.string());
            if (d.rollout != 0) j["rollout"] = d.rollout;
            findings.push_back(j);
        }
        print_json({{"frames", report.frames}, {"findings", findings}, {"settled", settled.settled}});
    } else {
        fmt::print("Frames looked at: {}; findings: {}\n", report.frames, report.findings.size());
        for (const auto& [kind, n] : counts) {
            fmt::print("{:20} {:6}  {}\n", to_string(kind), n, what_settles(kind));
            for (const DriftFinding& d : report.findings)
                if (d.kind == kind) fmt::print("  {}  {}\n", printable(d.frame.string()), printable(d.what));
        }
        if (o.settle) fmt::print("{} settled\n", settled.settled);
    }
    tell_problems(report.problems);
    if (!report.next.empty())
        throw input_error(fmt::format("The check was ended; 'rollout check --start-after {}' goes on.",
                                      printable(report.next.string())));
    fail_with(settled.failed);
}

void roll_back(const RolloutOptions& o) {
    Store store = open_store(o.store, Access::rollouts);
    const RolloutRecord record = rollout_of(store, o.number);
    if (record.status == RolloutStatus::preparing)
        fmt::print(stderr,
                   "Rollout {} stopped before it wrote anything, so there is nothing to restore; one before it is "
                   "taken back with --number.\n",
                   record.number);
    if (record.status == RolloutStatus::rolled_back)
        fmt::print(stderr, "Rollout {} was rolled back already; one before it is taken back with --number.\n",
                   record.number);
    const FrameScope part = scope_from(o.scope, store);
    if (part.all() && !o.author.empty())
        throw usage_error("--author is for taking back some frames; say which, or leave it out.");
    print_report(part.all() ? take_back(store, record.number, console_progress(), {{}, o.leave_gone})
                            : take_back_part(store, record.number, part, author_or_me(o.author), console_progress()),
                 o.json);
}

/// Options of rehearsal and rollout.
void add_forward_options(CLI::App& rehearsing, CLI::App& applying, const std::shared_ptr<RolloutOptions>& o) {
    for (auto* s : {&rehearsing, &applying}) {
        add_scope_options(*s, o->scope);
        s->add_flag("--renew-hand-set", o->renew, "Renew the baseline beneath hand-set fields, which stay");
        s->add_flag("--one-core", o->one_core, "Leave the other cores to whoever works on this machine");
    }
    rehearsing
        .add_option("--samples", o->samples,
                    "Develop so many of the frames that change most, before and after, and say how far they move")
        ->check(between(1, 100));
    rehearsing.add_option("--keep-as", o->keep_as, "Keep the scope as a selection with this name");
    rehearsing.callback([o] { rehearse_only(*o); });
    applying.add_option("--author", o->author, "Who rolls out [default: the login name]");
    applying.add_option("--hours", o->hours, "Write in these hours alone, by this station's clock: 22:00-06:00");
    applying.add_flag("--wait", o->wait, "Wait for those hours, and for those of the next day, until all is written");
    applying
        .add_option("--rehearsal", o->rehearsal, "Write exactly the result of this rehearsal, by the number it printed")
        ->check(whole(1, 1000000000));
    applying.add_flag("--all", o->all, "Every frame that the store knows");
    add_yes_flag(applying, o->yes);
    applying.callback([o] { apply(*o); });
}

/// Throws Error(input) when the rollout (0: the newest) is finished.
void require_stopped(const Store& store, int number) {
    const auto stopped = [](const RolloutRecord& r) {
        return r.status != RolloutStatus::done && r.status != RolloutStatus::rolled_back;
    };
    if (stopped(rollout_of(store, number))) return;
    throw input_error(number > 0
                          ? fmt::format("Rollout {} has come to its end, so there is nothing to go on with.", number)
                          : std::string("The newest rollout has come to its end, so there is nothing to go on with; "
                                        "name an older one with --number."));
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
    auto* rehearsing =
        sub("rehearse", "Show what a rollout would change; nothing is written", "rollout rehearse --body \"North 2\"");
    auto* applying =
        sub("apply", "Write one sidecar for each frame that changes, as a rehearsal said or as a scope says",
            "rollout apply --rehearsal 12");
    add_forward_options(*rehearsing, *applying, o);

    const auto numbered = [&](CLI::App* s) {
        s->add_option("--number", o->number, "Which rollout [default: the newest]")->check(whole(1, 1000000000));
        return s;
    };
    auto* back = numbered(sub("rollback", "Restore every sidecar of a rollout byte for byte, or those of some frames",
                              "rollout rollback --number 3"));
    add_scope_options(*back, o->scope);
    back->add_option("--author", o->author, "Who takes back some frames [default: the login name]");
    back->callback([o] { roll_back(*o); });
    auto* again = numbered(sub("again", "Roll out again what was rolled back", "rollout again --number 3"));
    again->callback([o] {
        Store store = open_store(o->store, Access::rollouts);
        print_report(roll_out_again(store, rollout_of(store, o->number).number, console_progress()), o->json);
    });
    auto* resuming = numbered(sub("resume", "Go on with a rollout or a roll back that was stopped", "rollout resume"));
    resuming->add_flag("--now", o->now, "Whatever hours it keeps to");
    for (auto* s : {back, resuming})
        s->add_flag("--leave-gone", o->leave_gone, "Leave out frames whose folder is gone for good");
    resuming->callback([o] {
        Store store = open_store(o->store, Access::rollouts);
        require_stopped(store, o->number);
        print_report(go_on(store, rollout_of(store, o->number).number, o->now, console_progress(), {{}, o->leave_gone}),
                     o->json);
    });
    auto* showing = numbered(sub("show", "Tell who rolled out what, when and where, field by field", "rollout show"));
    showing->callback([o] { show(*o); });
    auto* checking = sub("check", "Find sidecars that are not as they were left, and frames that were moved",
                         "rollout check --settle");
    checking->add_flag("--settle", o->settle,
                       "Write missing sidecars again, and follow frames that were moved, with their sidecars");
    checking->add_option("--start-after", o->start_after, "Go on behind this frame, where a check was ended");
    checking->callback([o] { check(*o); });
    auto* forgetting =
        sub("forget", "Forget a selection of frames that was kept by name", "rollout forget \"Night shift\"");
    forgetting->add_option("name", o->keep_as, "The selection")->required();
    forgetting->callback([o] { open_store(o->store, Access::write).selections().remove(o->keep_as); });
}

}  // namespace optrel::cli
