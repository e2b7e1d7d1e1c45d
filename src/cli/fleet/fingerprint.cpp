// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/numbers.h"
#include "base/station.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/confirm.h"
#include "sensor/fingerprint.h"
#include "studio/baselines/naming.h"
#include "studio/fleet/claim.h"
#include "studio/fleet/fingerprint_claims.h"
#include "studio/fleet/fingerprints.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct FingerprintOptions {
    std::string store, body, from;
    std::vector<std::string> frames;
    bool json = false, another_sensor = false, yes = false, accept = false;
    double at_least = 0;
};

void learn(const FingerprintOptions& o) {
    Store store = open_store(o.store, Access::write);
    const LearnedFingerprint learned =
        learn_fingerprint(store, Naming(store).body(o.body), {o.frames.begin(), o.frames.end()},
                          o.another_sensor ? OtherSensor::accept : OtherSensor::refuse, console_progress());
    if (o.json)
        print_json({{"id", learned.published.id},
                    {"version", learned.published.version},
                    {"body", o.body},
                    {"frames", learned.frames},
                    {"agreement_sigmas", learned.agreement},
                    {"left_out", learned.problems}});
    else
        fmt::print(
            "Published the fingerprint of {} as version {} ({}), from {} frames; two halves of them agree by "
            "{}\n",
            printable(o.body), learned.published.version, learned.published.id, learned.frames,
            figure_text(figures::sigmas, learned.agreement));
    tell_problems(learned.problems);
}

/// Chance that any of the compared fingerprints is wrongly named.
double chance_of(const RecognisedFrame& f) { return f.compared * false_alarm_rate(fingerprint_threshold); }

json frame_json(const RecognisedFrame& f) {
    json out = {{"frame", f.frame.string()},
                {"body", f.body.empty() ? json() : json(f.body)},
                {"compared", f.compared},
                {"threshold", fingerprint_threshold * fingerprint_threshold},
                {"false_alarm_rate", chance_of(f)}};
    if (f.compared > 0) {
        // A negative correlation is no peak.
        out["figure"] = f.z > 0 ? f.z * f.z : 0;
        out["sigmas"] = f.z;
        out["best"] = f.best;
    } else {
        out["figure"] = json();
    }
    if (!f.second.empty()) out["next_best"] = {{"body", f.second}, {"sigmas", f.second_z}};
    if (!f.problem.empty()) out["problem"] = f.problem;
    return out;
}

void name(const FingerprintOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const std::vector<RecognisedFrame> found =
        recognise_frames(store, {o.frames.begin(), o.frames.end()}, console_progress());
    json frames = json::array();
    std::vector<std::string> problems;
    for (const RecognisedFrame& f : found) {
        frames.push_back(frame_json(f));
        if (!f.problem.empty()) problems.push_back(f.problem);
        if (!o.json && f.compared > 0)
            fmt::print("{}: {} ({}, limit {:g}, {} compared)\n", printable(f.frame.string()),
                       f.body.empty() ? "none" : printable(f.body), figure_text(figures::sigmas, f.z),
                       fingerprint_threshold, f.compared);
    }
    if (o.json) print_json(frames);
    fail_with(problems);
}

json proposal_json(const FingerprintProposal& p) {
    json frames = json::array();
    for (const auto& frame : p.frames) frames.push_back(frame.string());
    return {{"body", p.body}, {"frames", frames}, {"least_figure", p.least_figure}, {"reason", p.sentence}};
}

/// Tells what frames without a known body show, and accepts it on request.
void propose(const FingerprintOptions& o) {
    if (!(o.at_least >= 0)) throw usage_error("The least figure (--at-least) is a number from 0 up.");
    Store store = open_store(o.store, o.accept ? Access::write : Access::read);
    const FingerprintFindings found = look_by_fingerprint(store, console_progress());
    try {
        Store into = open_store(o.store, Access::write);
        remember_unmatched(into, found);
    } catch (const Error&) {
        // Who may only look learns the same; Attention then goes on to offer the comparison.
    }
    json proposals = json::array(), foreign = json::array();
    Accepted accepted;
    int frames = 0;
    for (const FingerprintProposal& p : found.proposals) {
        proposals.push_back(proposal_json(p));
        if (!o.json) fmt::print("{} frames of {}: {}\n", p.frames.size(), printable(p.body), printable(p.sentence));
        if (p.least_figure < o.at_least) continue;
        accepted.claims.push_back(claim_of(p));
        frames += static_cast<int>(p.frames.size());
    }
    for (const ForeignSensor& f : found.foreign) {
        foreign.push_back(
            {{"frame", f.frame.string()}, {"reported", f.reported}, {"seen", f.seen}, {"text", f.sentence}});
        if (!o.json) fmt::print("! {}\n", printable(f.sentence));
    }
    if (o.json) print_json({{"looked_at", found.looked_at}, {"proposals", proposals}, {"other_sensors", foreign}});
    tell_problems(found.problems);
    if (!o.accept || accepted.claims.empty()) return;
    const FleetEdit edit = edit_for(accepted);
    confirm(store, "Claiming frames by their fingerprint", reach_of(store, edit, console_progress()), o.yes);
    store.registry().edit(edit, current_author());
    if (!o.json) fmt::print("Claimed {} frames; 'store claims' lists the claims.\n", frames);
}

/// Says or changes from which figure on frames that arrive are claimed without asking.
void automatic(const FingerprintOptions& o) {
    Store store = open_store(o.store, o.from.empty() ? Access::read : Access::write);
    if (!o.from.empty()) {
        const std::optional<double> figure = o.from == "never" ? 0 : parse_number(o.from);
        if (!figure) throw usage_error(fmt::format("'{}' is no figure; give a number, or never.", o.from));
        put_figure_without_asking(store, *figure);
    }
    const double figure = figure_without_asking(store);
    if (o.json)
        print_json({{"claims_from", figure > 0 ? json(figure) : json()}});
    else if (figure > 0)
        fmt::print("Frames that arrive are claimed by their fingerprint from a figure of {:g}.\n", figure);
    else
        fmt::print("Frames that arrive are not claimed by their fingerprint.\n");
}

}  // namespace

void add_fingerprint(CLI::App& app) {
    auto* command = add_command(app, "fingerprint", "Recognise bodies by the pattern of their sensors",
                                "fingerprint name --frames shoots/*.dng --store studio");
    command->require_subcommand(1);
    auto o = std::make_shared<FingerprintOptions>();
    auto* learning = add_command(*command, "learn", "Learn a body's fingerprint from raw flat fields, and publish it",
                                 "fingerprint learn --body HB-014 --frames flats/*.dng --store studio");
    add_store_option(*learning, o->store);
    learning->add_option("--body", o->body, "The body, by a name or number of the register")->required();
    learning->add_option("--frames", o->frames, "Raw flat fields of that body, four or more")->required();
    learning->add_flag("--another-sensor", o->another_sensor,
                       "The body has a new sensor, for example after a repair: replace its fingerprint");
    learning->add_flag("--json", o->json, "Print JSON");
    learning->callback([o] { learn(*o); });

    auto* naming = add_command(*command, "name", "Tell which body took each frame, and how sure that is",
                               "fingerprint name --frames shoots/*.dng --store studio --json");
    add_store_option(*naming, o->store);
    naming->add_option("--frames", o->frames, "Raw frames")->required();
    naming->add_flag("--json", o->json, "Print JSON");
    naming->callback([o] { name(*o); });

    auto* proposing = add_command(*command, "propose",
                                  "Compare all frames whose body is not known, and propose which body took them; tell "
                                  "bodies whose frames show another sensor",
                                  "fingerprint propose --store studio --accept --at-least 400");
    add_store_option(*proposing, o->store);
    proposing->add_flag("--accept", o->accept, "Claim the frames that are proposed");
    proposing->add_option("--at-least", o->at_least, "With --accept: only where every frame reaches this figure");
    add_yes_flag(*proposing, o->yes);
    proposing->add_flag("--json", o->json, "Print JSON");
    proposing->callback([o] { propose(*o); });

    auto* arriving = add_command(*command, "automatic",
                                 "Say, or change, from which figure on frames that arrive are claimed without asking",
                                 "fingerprint automatic --from 400 --store studio");
    add_store_option(*arriving, o->store);
    arriving->add_option("--from", o->from, "The least figure, or never; without it, what is set is printed");
    arriving->add_flag("--json", o->json, "Print JSON");
    arriving->callback([o] { automatic(*o); });
}

}  // namespace optrel::cli
