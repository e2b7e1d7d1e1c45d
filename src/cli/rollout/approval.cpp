// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli approval and remark: proposals, approvals and remarks.
#include <fmt/format.h>

#include "base/error.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/development/sample_lines.h"
#include "cli/frames/scope_options.h"
#include "cli/sharing/publish_options.h"
#include "kinds/measurement_kinds.h"
#include "measurement/findings.h"
#include "studio/baselines/frame_sheets.h"
#include "studio/frames/scope.h"
#include "studio/profiles/profile_file.h"
#include "studio/rollout/approvals.h"
#include "studio/rollout/rolling.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct ApprovalOptions {
    PublishOptions publishing;
    std::string store, note, profile, remark, field, kind, subject;
    ScopeOptions scope;
    int number = 0, frames = -1, samples = 0;
    bool json = false, all = false, no_more = false;
};

void tell_proposed(const ApprovalOptions& o, int id) {
    if (o.json)
        print_json({{"proposal", id}});
    else
        fmt::print("Proposal {} waits for a second person.\n", id);
}

void propose_scope(const ApprovalOptions& o) {
    Store store = open_store(o.store, Access::write);
    const FrameScope scope = scope_from(o.scope, store);
    const Rehearsal rehearsal =
        rehearse_frames({std::make_shared<const RehearsalRequest::Frames>(store.frames().all()), scope, false, false,
                         profiles_of(store)},
                        *store.registry().fleet(), store.baselines().current(), console_progress());
    tell_proposed(o, propose_rollout(store, rehearsal, in_words(scope), o.note));
}

json summary(const ChangeProposal& p) {
    return {{"proposal", p.id},   {"kind", to_string(p.kind)},   {"subject", p.subject},
            {"author", p.author}, {"station", p.station},        {"time", p.time},
            {"note", p.note},     {"state", to_string(p.state)}, {"judge", p.judge},
            {"judged", p.judged}, {"remark", p.remark},          {"field", p.field}};
}

void list_proposals(const ApprovalOptions& o) {
    const Store store = open_store(o.store, Access::read);
    json out = json::array();
    for (const ChangeProposal& p : store.proposals().all()) {
        if (!o.all && p.state != ProposalState::open) continue;
        out.push_back(summary(p));
        if (!o.json)
            fmt::print("{:>5}  {:<9}  {:<8}  {}  by {} at {}{}{}\n", p.id, to_string(p.state), to_string(p.kind),
                       printable(p.subject), printable(p.author), printable(p.station), p.note.empty() ? "" : ": ",
                       printable(p.note));
    }
    end_list(out, o.json, "Nothing waits to be approved.");
}

json samples(const Store& store, const ProposalView& view, const ApprovalOptions& o) {
    json out = json::array();
    look_at_samples(
        store, view, static_cast<std::size_t>(o.samples),
        [&](const Sample& s) { out.push_back(tell_sample(s, o.json)); }, console_progress());
    return out;
}

void show_proposal(const ApprovalOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const ProposalView v = look_at_proposal(store, o.number, console_progress());
    if (o.json) {
        json out = summary(v.proposal);
        out["headline"] = v.headline;
        out["changes"] = v.changes;
        out["lint"] = v.lint;
        out["reach"] = v.reach;
        if (o.samples > 0) out["samples"] = samples(store, v, o);
        print_json(out);
        return;
    }
    fmt::print("{} proposed by {} at {}, {}: {}\n{}\n", to_string(v.proposal.kind), printable(v.proposal.author),
               printable(v.proposal.station), v.proposal.time, printable(v.proposal.note), printable(v.headline));
    for (const auto& [title, lines] :
         {std::pair("Changes", &v.changes), {"Lint, new with it", &v.lint}, {"Reach", &v.reach}}) {
        if (lines->empty()) continue;
        fmt::print("{}:\n", title);
        for (const std::string& line : *lines) fmt::print("  {}\n", printable(line));
    }
    if (o.samples > 0) samples(store, v, o);
}

void need(const ApprovalOptions& o) {
    Store store = open_store(o.store, Access::write);
    const ProposalKind kind = ProposalKind::named(o.kind);
    if (o.no_more) return store.proposals().need_no_more(kind);
    if (kind == ProposalKind::rollout && o.frames < 0)
        throw usage_error("Say with --more-than-frames over how many frames a rollout needs a second person.");
    if (kind != ProposalKind::rollout && o.frames >= 0)
        throw usage_error("A number of frames is said for rollouts alone.");
    store.proposals().need(kind, std::max(0, o.frames));
}

void list_remarks(const ApprovalOptions& o) {
    const Store store = open_store(o.store, Access::read);
    json out = json::array();
    for (const Remark& r : store.proposals().remarks(o.kind, o.subject)) {
        if (!o.all && r.settled) continue;
        out.push_back({{"remark", r.id},
                       {"kind", r.kind},
                       {"subject", r.subject},
                       {"field", r.field},
                       {"words", r.words},
                       {"author", r.author},
                       {"time", r.time},
                       {"settled", r.settled}});
        if (!o.json)
            fmt::print("{:>5}  {} {}{}{}  {}: {}\n", r.id, r.kind, printable(r.subject), r.field.empty() ? "" : ", ",
                       printable(r.field), printable(r.author), printable(r.words));
    }
    end_list(out, o.json, "There are no remarks.");
}

void add_proposing(CLI::App& parent, const std::shared_ptr<ApprovalOptions>& o) {
    const auto command = [&](const char* name, const char* what, const char* example) {
        auto* added = add_command(parent, name, what, example);
        add_store_option(*added, o->store);
        added->add_option("--note", o->note, "What it is for");
        added->add_flag("--json", o->json, "Print JSON");
        return added;
    };
    command("propose-baseline", "Propose the draft as the next revision", "approval propose-baseline --note \"Softer\"")
        ->callback([o] {
            Store store = open_store(o->store, Access::write);
            tell_proposed(*o, propose_draft(store, o->note));
        });
    auto* profile = command("propose-profile", "Propose a measured profile as the next version for its lens",
                            "approval propose-profile profile.json");
    profile->add_option("profile", o->profile, "Profile (JSON) as calibrate wrote it")->required();
    profile->add_option("--accept", o->publishing.accept, "Accept a serious finding by its name; may be given again");
    profile->add_option("--reason", o->publishing.reason, "Why the findings are accepted");
    profile->callback([o] {
        Profile measured = read_profile(o->profile);
        accept(measured, o->publishing);
        require_accepted(measured.findings, measured.name);
        Store store = open_store(o->store, Access::write);
        tell_proposed(*o, propose_profile(store, measured, o->note));
    });
    auto* rollout = command("propose-rollout", "Rehearse a rollout and propose exactly that",
                            "approval propose-rollout --body \"Stand 1\"");
    add_scope_options(*rollout, o->scope);
    rollout->callback([o] { propose_scope(*o); });
}

void add_judging(CLI::App& parent, const std::shared_ptr<ApprovalOptions>& o) {
    const auto command = [&](const char* name, const char* what, const char* example) {
        auto* added = add_command(parent, name, what, example);
        add_store_option(*added, o->store);
        return added;
    };
    auto* listing = command("list", "List what waits for a second person", "approval list --store studio");
    listing->add_flag("--all", o->all, "Also what was judged");
    listing->add_flag("--json", o->json, "Print JSON");
    listing->callback([o] { list_proposals(*o); });
    auto* showing = command("show", "Show what a proposal changes, what lint finds in it, and which frames it affects",
                            "approval show 3 --store studio");
    showing->add_option("number", o->number, "Number of the proposal")->required();
    showing->add_flag("--json", o->json, "Print JSON");
    showing->add_option("--samples", o->samples, "Develop so many sample frames, and tell how far they change")
        ->check(between(1, 100));
    showing->callback([o] { show_proposal(*o); });
    auto* approving = command("approve", "Approve a proposal of another person, which publishes it",
                              "approval approve 3 --store studio");
    approving->add_option("number", o->number, "Number of the proposal")->required();
    approving->add_option("--remark", o->remark, "What is to be said of it");
    approving->callback([o] {
        Store store = open_store(o->store, Access::write);
        fmt::print("{}\n", approve_proposal(store, o->number, o->remark));
    });
    auto* back = command("send-back", "Send a proposal back with a remark",
                         "approval send-back 3 --field exposure --remark \"Too much for the drawers\"");
    back->add_option("number", o->number, "Number of the proposal")->required();
    back->add_option("--remark", o->remark, "Why")->required();
    back->add_option("--field", o->field, "The field that it is about");
    back->callback([o] {
        Store store = open_store(o->store, Access::write);
        store.proposals().judge(o->number, false, o->remark, o->field);
    });
    auto* needing = command("need", "Settle what needs a second person in this studio",
                            "approval need rollout --more-than-frames 500 --store studio");
    std::vector<std::string> kinds{ProposalKind::revision.id(), ProposalKind::rollout.id()};
    for (const MeasurementKind* kind : measurement_kinds()) kinds.push_back(kind->id);
    needing->add_option("kind", o->kind, one_of(kinds))->required()->check(CLI::IsMember(kinds));
    needing->add_option("--more-than-frames", o->frames, "Of a rollout: over more frames than this")
        ->check(between(0, 1e9));
    needing->add_flag("--no-more", o->no_more, "One person is enough from now on");
    needing->callback([o] { need(*o); });
}

}  // namespace

void add_approval(CLI::App& app) {
    auto o = std::make_shared<ApprovalOptions>();
    auto* approval =
        add_command(app, "approval", "What a second person has to look at", "approval list --store studio");
    approval->require_subcommand(1);
    add_proposing(*approval, o);
    add_judging(*approval, o);

    auto r = std::make_shared<ApprovalOptions>();
    auto* remark = add_command(app, "remark", "What people say of a tier, a set, a profile, a frame or a finding",
                               "remark list --store studio");
    remark->require_subcommand(1);
    auto* listing = add_command(*remark, "list", "List remarks that are not settled", "remark list --kind profile");
    add_store_option(*listing, r->store);
    listing->add_option("--kind", r->kind, "On one kind of thing: tier, set, profile, frame or finding");
    listing->add_option("--subject", r->subject, "On one thing, by its id or path");
    listing->add_flag("--all", r->all, "Also those that are settled");
    listing->add_flag("--json", r->json, "Print JSON");
    listing->callback([r] { list_remarks(*r); });
    auto* adding = add_command(*remark, "add", "Say something of a thing",
                               "remark add tier studio --field exposure --words \"Look at the drawers again\"");
    add_store_option(*adding, r->store);
    adding->add_option("kind", r->kind, "tier, set, profile, frame or finding")->required();
    adding->add_option("subject", r->subject, "Its id or path")->required();
    adding->add_option("--field", r->field, "The field that it is about");
    adding->add_option("--words", r->remark, "What is to be said")->required();
    adding->callback([r] {
        Store store = open_store(r->store, Access::write);
        Remark said;
        said.kind = r->kind;
        said.subject = r->subject;
        said.field = r->field;
        said.words = r->remark;
        fmt::print("Remark {}.\n", remark_on(store, said));
    });
    auto* settling = add_command(*remark, "settle", "A remark is settled", "remark settle 3 --store studio");
    add_store_option(*settling, r->store);
    settling->add_option("number", r->number, "Number of the remark")->required();
    settling->callback([r] { open_store(r->store, Access::write).proposals().settle_remark(r->number); });
}

}  // namespace optrel::cli
