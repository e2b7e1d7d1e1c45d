// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/rollout/approvals.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/paths.h"
#include "base/words.h"
#include "baselines/difference.h"
#include "baselines/lint.h"
#include "measurement/findings.h"
#include "optics/profile.h"
#include "optics/profile_kind.h"
#include "store/transaction.h"
#include "studio/frames/knowledge.h"
#include "studio/profiles/profile_file.h"
#include "studio/rollout/rehearsing.h"

namespace optrel {
namespace {

using nlohmann::json;

/// Maximum number of sample frames that a proposal names.
constexpr std::size_t most_samples = 12;

std::string line_of(const RevisionChange& c) {
    return c.field.empty() ? fmt::format("{}: {} → {}", c.tier, c.before, c.after)
                           : fmt::format("{}, {}: {} → {}", c.tier, c.field, c.before, c.after);
}

/// Hash of everything that a rollout writes, so that exactly this is approved.
std::string rollout_document(const Store& store, const Rehearsal& rehearsal, const std::string& scope) {
    std::string all;
    json bodies = json::object();
    for (const RehearsedFrame& f : rehearsal.frames) {
        if (!f.writes) continue;
        const std::string path = store.kept(f.path), after = f.after;
        all += fmt::format("{}:{}{}:{}", path.size(), path, after.size(), after);
        json& n = bodies[std::string(f.body_label)];
        n = n.is_null() ? 1 : n.get<int>() + 1;
    }
    json samples = json::array();
    for (const SampleChoice& c : choose_samples(rehearsal, most_samples))
        samples.push_back(store.kept(rehearsal.frames[c.frame].path));
    return json_text({{"revision", rehearsal.revision},
                      {"renew_hand_set", rehearsal.renew_hand_set},
                      {"samples", samples},
                      {"frames", rehearsal.writes()},
                      {"scope", scope},
                      {"bodies", bodies},
                      {"sha256", bytes_hash(all)},
                      {"plan_sha256", store.rollouts().plan_hash(entries_of(rehearsal))}});
}

/// The scope is only shown and is not part of the approved plan. The server compares the hash with the stored plan.
bool same_rollout(const std::string& one, const std::string& other) {
    const json a = parse_json(one, "the proposal"), b = parse_json(other, "the proposal");
    return a.at("sha256") == b.at("sha256") && a.value("plan_sha256", "") == b.value("plan_sha256", "") &&
           a.at("revision") == b.at("revision") && a.at("frames") == b.at("frames");
}

void see_revision(const Store& store, ProposalView& view, Progress& progress) {
    const Revision wanted = revision_from_json(view.proposal.document, fmt::format("proposal {}", view.proposal.id));
    const Revision now = store.baselines().current();
    const std::vector<RevisionChange> changes = difference(now, wanted);
    for (const RevisionChange& c : changes) view.changes.push_back(line_of(c));
    view.headline = now.number == 0 ? counted(changes.size(), "change", "changes") + "; no revision is published yet"
                                    : fmt::format("{} against revision {}",
                                                  counted(changes.size(), "change", "changes"), now.number);
    progress.check();
    const std::vector<FrameRecord> frames = store.frames().all();
    const std::shared_ptr<const Fleet> fleet = store.registry().fleet();
    const FactsOfFrames facts = facts_of(frames, *fleet);
    const std::vector<FactsGroup>& groups = facts.groups();
    const std::vector<FleetBody> bodies = fleet_bodies(*fleet, frames, facts);
    std::vector<std::string> before;
    if (now.number > 0)
        for (const LintFinding& f : lint(now, groups, bodies)) before.push_back(f.sentence);
    for (const LintFinding& f : lint(wanted, groups, bodies))
        if (std::find(before.begin(), before.end(), f.sentence) == before.end()) view.lint.push_back(f.sentence);
    RehearsalRequest request;
    request.frames = std::make_shared<const RehearsalRequest::Frames>(frames);
    request.profiles = profiles_of(store);
    Revision next = wanted;
    next.number = now.number + 1;
    view.rehearsal = std::make_shared<const Rehearsal>(rehearse_frames(request, *fleet, next, progress));
    int changed = 0;
    for (const RehearsedFrame& f : view.rehearsal->frames) changed += !f.changes.empty();
    view.reach.push_back(fmt::format("{} of {} frames would change", changed, view.rehearsal->frames.size()));
    for (const auto& [body, n] : view.rehearsal->by_body())
        if (n.first > 0) view.reach.push_back(fmt::format("{}: {} of {} frames", body, n.first, n.second));
}

void see_measurement(const Store& store, const MeasurementKind& kind, ProposalView& view) {
    const std::string where = fmt::format("Proposal {}", view.proposal.id);
    const Measurement wanted = kind.read(view.proposal.document, where);
    std::optional<Measurement> before;
    for (const Measurement& m : store.measurements().current(kind))
        if (!m.subject_key.empty() && m.subject_key == wanted.subject_key) before = m;
    view.headline = before ? fmt::format("The next version of {}, after version {}", wanted.name, before->version)
                           : fmt::format("The first {} of {}", kind.one, wanted.name);
    for (const SeriousFinding& f : wanted.findings)
        view.changes.push_back(fmt::format("accepted by {}: {} ({}){}", f.accepted_by, f.name, without_stop(f.text),
                                           f.reason.empty() ? "" : ", because " + f.reason));
    if (before)
        for (const std::string& line : kind.differences(before->document, wanted.document))
            view.changes.push_back(line);
    for (const QualityFigure& f : wanted.figures) view.changes.push_back(capitalised(to_string(f)));
    if (kind.id != lens_profile_kind().id) return;
    view.profile = profile_from_json(view.proposal.document, where);
    for (const ProfileNode& n : view.profile->nodes)
        view.changes.push_back(fmt::format("{:g} mm: {} RMS over {} frames", n.focal_mm,
                                           figure_text(figures::reprojection_error, n.quality.rms_px),
                                           n.quality.frames_used));
}

/// Rehearsed again here, so that the approver does not depend on the author's figures.
void see_samples(const Store& store, const json& document, ProposalView& view, Progress& progress) {
    const std::optional<Revision> revision = store.baselines().revision(document.at("revision"));
    if (!revision) return;
    auto frames = std::make_shared<RehearsalRequest::Frames>();
    for (const json& path : document.value("samples", json::array()))
        if (auto f = store.frames().find(store.here(path.get<std::string>()))) frames->push_back(std::move(*f));
    view.rehearsal = std::make_shared<const Rehearsal>(
        rehearse_frames({frames, {}, document.value("renew_hand_set", false), false, profiles_of(store)},
                        *store.registry().fleet(), *revision, progress));
}

void see_rollout(const Store& store, ProposalView& view, Progress& progress) {
    const json j = parse_json(view.proposal.document, "the proposal");
    view.headline =
        fmt::format("{} written with revision {}", counted(j.at("frames").get<long long>(), "sidecar", "sidecars"),
                    j.at("revision").get<int>());
    for (const auto& [body, n] : j.at("bodies").items())
        view.reach.push_back(fmt::format("{}: {}", body, counted(n.get<long long>(), "frame", "frames")));
    see_samples(store, j, view, progress);
}

}  // namespace

int propose_draft(Store& store, const std::string& note) {
    const Revision draft = store.baselines().draft();
    if (difference(store.baselines().current(), draft).empty())
        throw input_error(
            "The draft says nothing that is not published, so there is nothing to propose; pin something first.");
    if (const std::vector<Conflict> conflicts = find_conflicts(draft); !conflicts.empty())
        throw input_error(conflicts.front().sentence());
    check_sets(draft);
    const std::size_t n = difference(store.baselines().current(), draft).size();
    return store.proposals().propose(ProposalKind::revision, counted(static_cast<long long>(n), "change", "changes"),
                                     proposed_form(revision_to_json(draft)), note);
}

int propose_profile(Store& store, const Profile& profile, const std::string& note) {
    require_accepted(profile.findings, profile.name);
    return store.proposals().propose(ProposalKind::of(lens_profile_kind()), profile.name, proposed_profile(profile),
                                     note);
}

int propose_rollout(Store& store, const Rehearsal& rehearsal, const std::string& scope, const std::string& note) {
    if (rehearsal.writes() == 0) throw input_error("This rollout would write nothing, so there is nothing to propose.");
    return store.proposals().propose(ProposalKind::rollout,
                                     scope.empty() ? counted(rehearsal.writes(), "frame", "frames") : scope,
                                     rollout_document(store, rehearsal, scope), note);
}

void require_approved(const Store& store, const Rehearsal& rehearsal) {
    const int writes = rehearsal.writes();
    if (!store.proposals().needed(ProposalKind::rollout, writes)) return;
    const std::string document = rollout_document(store, rehearsal, "");
    for (const ChangeProposal& p : store.proposals().all())
        if (p.kind == ProposalKind::rollout && p.state == ProposalState::approved &&
            same_rollout(store.proposals().find(p.id).document, document))
            return;
    throw input_error(fmt::format(
        "This studio wants a second person for a rollout over {} frames, so nothing was written; propose it, "
        "and have somebody approve it.",
        writes));
}

int remark_on(Store& store, Remark r) {
    if (r.kind == "frame") {
        const std::filesystem::path path = plain_path(r.subject);
        if (!store.frames().find(path))
            throw input_error(
                fmt::format("The store knows no frame {}; see 'store list frames'.", printable(r.subject)));
        r.subject = store.kept(path);
        return store.proposals().remark(r);
    }
    std::vector<std::pair<std::string, std::string>> known;  // id and name
    if (r.kind == "tier")
        for (const Tier& t : store.baselines().draft().tiers) known.emplace_back(t.id, t.name);
    else if (r.kind == "set")
        for (const PinSet& s : store.baselines().draft().sets) known.emplace_back(s.name, s.name);
    else if (r.kind == "profile")
        for (const Profile& p : store.profiles().all_versions()) known.emplace_back(p.id, p.name);
    else
        return store.proposals().remark(r);  // a remark on a finding is text; other kinds are refused there
    std::vector<std::string> names;
    for (const auto& [id, name] : known) {
        if (id == r.subject || lowered(name) == lowered(r.subject)) {
            r.subject = id;
            return store.proposals().remark(r);
        }
        names.push_back(name);
    }
    throw input_error(
        fmt::format("There is no {} '{}'{}.", r.kind, printable(r.subject), nearest_clause(r.subject, names)));
}

ProposalView look_at_proposal(const Store& store, int id, Progress& progress) {
    ProposalView view;
    view.proposal = store.proposals().find(id);
    const ProposalKind& kind = view.proposal.kind;
    if (kind == ProposalKind::revision)
        see_revision(store, view, progress);
    else if (kind == ProposalKind::rollout)
        see_rollout(store, view, progress);
    else
        see_measurement(store, *kind.measurement(), view);
    return view;
}

bool may_approve(const Store& store) {
    const StorePeople* people = store.people();
    return !people || people->mine() >= Role::approves;
}

void look_at_samples(const Store& store, const ProposalView& view, std::size_t most,
                     const std::function<void(Sample)>& sink, Progress& progress) {
    if (view.profile) return look_at_samples_of_profile(store, *view.profile, most, sink, progress);
    if (view.rehearsal) look_at_samples(store, *view.rehearsal, most, sink, progress);
}

std::string approve_proposal(Store& store, int id, const std::string& remark) {
    Transaction together(store.engine());
    const ChangeProposal p = store.proposals().find(id);
    store.proposals().judge(id, true, remark, "");
    std::string out;
    if (p.kind == ProposalKind::revision) {
        const Revision r = store.baselines().publish_as(revision_from_json(p.document, fmt::format("proposal {}", id)),
                                                        p.author, p.note);
        out = fmt::format("Revision {} is published, as {} proposed it.", r.number, p.author);
    } else if (p.kind.measurement()) {
        const Measurement published =
            store.measurements().publish(*p.kind.measurement(), p.document, OtherSettings::drop);
        out = fmt::format("{} is published as version {}.", published.name, published.version);
    } else {
        out = fmt::format("The rollout that {} proposed may be rolled out.", p.author);
    }
    together.commit();
    return out;
}

}  // namespace optrel
