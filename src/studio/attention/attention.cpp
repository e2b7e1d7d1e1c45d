// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/attention/attention.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/path_text.h"
#include "base/times.h"
#include "base/words.h"
#include "baselines/difference.h"
#include "kinds/measurement_kinds.h"
#include "studio/fleet/fingerprint_claims.h"
#include "studio/frames/body_measurements.h"
#include "studio/frames/sheet_reader.h"
#include "studio/rollout/approvals.h"

namespace optrel {
namespace {

using Kind = AttentionKind;

constexpr const char* kind_names[] = {"no-frames",
                                      "missing-root",
                                      "unclaimed-body",
                                      "identity-choice",
                                      "fingerprint",
                                      "unclaimed-lens",
                                      "no-profile",
                                      "measurement-due",
                                      "profile-differs",
                                      "draft",
                                      "conflict",
                                      "lint",
                                      "unreadable-sidecar",
                                      "behind-profile",
                                      "behind-revision",
                                      "damaged-record",
                                      "damaged-rollout",
                                      "stopped-rollout",
                                      "proposal-to-judge",
                                      "proposal-waits",
                                      "proposal-sent-back",
                                      "remark",
                                      "bundle"};

/// Unclaimed identities of one kind.
struct Unsettled {
    int identities = 0, frames = 0;
    std::string first;

    void add(const Identity& id, const std::string& what) {
        if (first.empty()) first = what + ": " + id.proposal.sentence();
        ++identities;
        frames += id.frames;
    }
    std::string count(const char* one, const char* many) const {
        return identities == 1 ? std::string(one) : fmt::format("{} {}", identities, many);
    }
    std::string and_others() const { return first + (identities > 1 ? "; and others." : "."); }
};

std::string reported(const Identity& id) {
    if (id.of == Identity::Of::body) return id.camera + (id.serial.empty() ? " without a number" : " " + id.serial);
    return id.lens_text.empty() ? "no lens named, from " + id.camera : id.lens_text;
}

std::string label_of(const std::string& field) {
    for (const FieldInfo& f : all_fields())
        if (f.id == field) return f.label;
    return field;
}

std::string in_field(const std::string& field) { return field.empty() ? "" : " (" + label_of(field) + ")"; }

/// Collects the items by subject.
class Collector {
public:
    explicit Collector(const AttentionFacts& facts) : facts_(facts) {}

    std::vector<AttentionItem> collect() {
        frames();
        identities();
        profiles();
        baseline();
        sidecars();
        records();
        rollouts();
        proposals();
        others();
        std::stable_sort(out_.begin(), out_.end(), [](const AttentionItem& a, const AttentionItem& b) {
            return std::pair(!a.serious, a.kind) < std::pair(!b.serious, b.kind);
        });
        return std::move(out_);
    }

private:
    AttentionItem& add(Kind kind, bool serious, std::string what, std::string why, const char* settle_by,
                       int frames = 0) {
        return out_.emplace_back(
            AttentionItem{kind, serious, std::move(what), std::move(why), settle_by, frames, "", 0});
    }

    void frames() {
        if (!facts_.any_frames)
            add(Kind::no_frames, false, "No frames are known",
                "Optrel needs a folder of frames: bodies and lenses are taken from what they report.",
                "choosing a folder");
        for (const auto& [root, frames] : facts_.fleet->missing_roots)
            add(Kind::missing_root, true, fmt::format("The root {} has no folder here", root),
                "Other stations see its frames under paths of their own; this station cannot open them.",
                "saying where it lies", frames)
                .subject = root;
    }
    void identities() {
        Unsettled bodies, lenses, choices;
        for (const Identity& id : facts_.fleet->identities) {
            if (id.status != Identity::Status::unclaimed) continue;
            Unsettled& sort = id.of == Identity::Of::body ? bodies : lenses;
            (id.proposal.action == ProposedAction::choose ? choices : sort).add(id, reported(id));
        }
        if (bodies.identities)
            add(Kind::unclaimed_body, true, bodies.count("A body is unclaimed", "bodies are unclaimed"),
                bodies.and_others() + " No body tier reaches their frames.", "accepting or claiming it in Fleet",
                bodies.frames);
        if (choices.identities)
            add(Kind::identity_choice, false,
                choices.count("An identity has to be chosen", "identities have to be chosen"), choices.and_others(),
                "choosing for them in Fleet", choices.frames);
        fingerprints();
        if (lenses.identities)
            add(Kind::unclaimed_lens, false, lenses.count("A lens is unclaimed", "lenses are unclaimed"),
                lenses.and_others(), "accepting or claiming it in Fleet", lenses.frames);
    }
    void fingerprints() {
        int frames = 0;
        std::string camera;
        for (const FactsGroup& group : facts_.fleet->groups()) {
            if (!group.facts.raw || group.facts.body_knowledge == BodyKnowledge::known ||
                !facts_.fingerprinted.contains(group.facts.model))
                continue;
            frames += group.frames;
            camera = group.facts.model;
        }
        frames -= facts_.findings->unmatched_frames;
        if (frames > 0)
            add(Kind::fingerprint, false,
                fmt::format("Fingerprints may tell which body took {}", counted(frames, "frame", "frames")),
                fmt::format(
                    "Their files name no body that is known, and fingerprints of {} are there to compare them with.",
                    camera),
                "comparing them in Fleet, Identities", frames);
    }
    void profiles() {
        for (const LensUse& use : facts_.fleet->lens_use) {
            if (use.without() == 0 || use.lens.empty()) continue;
            std::string why = "Its frames are developed without correction of distortion, fringe and falloff.";
            if (!use.against.empty())
                why += " Candidates and stand-ins are in Fleet, Bodies by lenses; the nearest was refused: " +
                       use.against.front() + ".";
            add(Kind::no_profile, true, "No profile fits " + use.lens, why,
                "measuring it on the Bench, or searching what others measured", use.without())
                .subject = use.lens;
        }
        for (const ProfileConcern& c : facts_.findings->profile_concerns)
            add(Kind::profile_differs, true, fmt::format("A profile has {}: {}", to_string(c.verdict), c.name),
                c.sentence, "comparing the versions in Lenses");
        for (const DueAgain& d : facts_.findings->due)
            add(Kind::measurement_due, false, fmt::format("A {} is due again: {}", d.kind->one, d.name), d.sentence,
                d.kind->made_again_by.c_str())
                .subject = d.kind->id;
    }
    void baseline() {
        if (const int changes = facts_.pending_changes; changes > 0)
            add(Kind::draft, false, "The draft is not published",
                changes == 1 ? "One change waits in Baselines; no frame gets it until it is published."
                             : fmt::format("{} changes wait in Baselines; no frame gets them until they are published.",
                                           changes),
                "publishing it in Baselines");
        for (const Conflict& c : find_conflicts(*facts_.draft))
            add(Kind::conflict, true, "Two tiers are in conflict", c.sentence(), "mending it in Baselines");
        struct Found {
            int findings = 0, frames = 0;
            std::string first;
        };
        std::map<LintRule, Found> rules;
        for (const LintFinding& f : facts_.findings->published_lint) {
            Found& found = rules[f.rule];
            if (found.findings++ == 0) found.first = f.sentence;
            found.frames += f.frames;
        }
        for (const auto& [rule, found] : rules)
            add(Kind::lint, false,
                fmt::format("Revision {}: {}{}", facts_.current->number, to_string(rule),
                            found.findings > 1 ? fmt::format(" ({} times)", found.findings) : ""),
                found.first, "mending the draft in Baselines", found.frames);
    }
    void sidecars() {
        if (facts_.unreadable_sidecars > 0)
            add(Kind::unreadable_sidecar, true, "Sidecars that cannot be read",
                "They are damaged or were written by something else; Optrel leaves them as they are.",
                "looking at them in Inspect", facts_.unreadable_sidecars);
        for (const BehindVersion& b : facts_.findings->behind_versions)
            add(Kind::behind_profile, false, fmt::format("Frames behind a lens profile: {} → {}", b.before, b.after),
                fmt::format("They were rolled out with the first and get the second now: places of their pictures move "
                            "by up to {}.",
                            figure_text(figures::shift, b.largest_px)),
                "rehearsing in Rollout", b.frames);
        if (facts_.frames_behind > 0)
            add(Kind::behind_revision, false, fmt::format("Frames behind revision {}", facts_.current->number),
                "They still have an older baseline, or none.", "rehearsing in Rollout", facts_.frames_behind);
    }
    void records() {
        for (const DamagedRecord& r : facts_.findings->damaged_records)
            add(Kind::damaged_record, true, r.name + " cannot be read", r.problem + " It is left out everywhere.",
                "asking who keeps the store to take it out")
                .subject = r.kind;
    }
    void rollouts() {
        for (const RolloutRecord& r : facts_.rollouts) {
            if (r.status == RolloutStatus::damaged)
                add(Kind::damaged_rollout, true, fmt::format("The record of rollout {} is damaged", r.number),
                    r.problem, "looking at it in Rollout")
                    .number = r.number;
            const bool open = r.status == RolloutStatus::writing || r.status == RolloutStatus::rolling_back;
            if (open && r.running_at.empty())
                add(Kind::stopped_rollout, true, fmt::format("Rollout {} was stopped half-way", r.number),
                    "Every sidecar is whole; it can go on or be taken back.", "going on in Rollout", r.frames)
                    .number = r.number;
        }
    }
    /// Whether nothing newer of the same kind was proposed by the same author.
    bool is_newest(const ChangeProposal& p) const {
        return std::none_of(facts_.proposals.begin(), facts_.proposals.end(), [&](const ChangeProposal& newer) {
            return newer.id > p.id && newer.kind == p.kind && newer.author == p.author;
        });
    }
    void proposals() {
        for (const ChangeProposal& p : facts_.proposals) {
            const std::string what = to_string(p.kind);
            const std::string subject = p.subject + "." + (p.note.empty() ? "" : " “" + p.note + "”");
            if (p.state == ProposalState::open && facts_.may_approve && !p.mine)
                add(Kind::proposal_to_judge, true, fmt::format("{} proposes a {}", p.author, what),
                    subject + " It waits for a second person.", "approving it or sending it back")
                    .number = p.id;
            else if (p.state == ProposalState::open)
                add(Kind::proposal_waits, false,
                    fmt::format("{} {} waits for a second person", p.mine ? "Your" : p.author + "'s", what),
                    subject + " Somebody who approves has to look at it.", "looking at it")
                    .number = p.id;
            else if (p.state == ProposalState::sent_back && p.mine && is_newest(p))
                add(Kind::proposal_sent_back, true, fmt::format("{} sent your {} back", p.judge, what),
                    "“" + p.remark + "”" + in_field(p.field), "mending the draft and proposing it again")
                    .number = p.id;
        }
    }
    /// Name of a remark's subject for display.
    std::string subject_of(const Remark& r) const {
        if (r.kind == "tier")
            for (const Tier& t : facts_.draft->tiers)
                if (t.id == r.subject) return t.name;
        if (r.kind == "profile")
            for (const Profile& p : *facts_.profiles)
                if (p.id == r.subject) return p.name;
        if (r.kind == "frame") return std::filesystem::path(path_from_text(r.subject)).filename().string();
        return r.subject;
    }
    void others() {
        for (const Remark& r : facts_.remarks)
            add(Kind::remark, false, fmt::format("A remark on the {} {}", r.kind, subject_of(r)),
                r.author + ": “" + r.words + "”" + in_field(r.field), "settling it")
                .number = r.id;
        for (const FoundBundle& b : facts_.bundles)
            add(Kind::bundle, false, "A bundle came with a folder: " + b.path.filename().string(),
                "It lies in " + b.path.parent_path().string() +
                    " and brings what is not here. Nothing of it is taken before you looked at it.",
                "looking at it")
                .subject = b.path.string();
    }

    const AttentionFacts& facts_;
    std::vector<AttentionItem> out_;
};

/// Frames whose sheets name another version of a profile than a current one. Counts the others that need a person.
std::vector<NotedFrame> read_sidecars(const std::vector<FrameRecord>& frames, const std::set<std::string>& current,
                                      AttentionFacts& facts, Progress& progress) {
    std::vector<NotedFrame> noted;
    SheetReader reader;
    progress.start(static_cast<int>(frames.size()), "Reading sidecars");
    for (const FrameRecord& frame : frames) {
        progress.check();
        progress.step();
        try {
            const std::shared_ptr<const Sheet> sheet = reader.read(frame.path);
            facts.frames_behind += sheet->follows_baseline() && sheet->revision < facts.current->number;
            if (!sheet->profile.empty() && current.count(sheet->profile) == 0) noted.emplace_back(frame, sheet);
        } catch (const std::exception&) {
            ++facts.unreadable_sidecars;
        }
    }
    return noted;
}

}  // namespace

std::string to_string(AttentionKind kind) { return kind_names[static_cast<int>(kind)]; }

std::vector<std::string> attention_kind_names() { return {std::begin(kind_names), std::end(kind_names)}; }

AttentionKind attention_kind_named(const std::string& name) {
    const std::vector<std::string> names = attention_kind_names();
    const auto found = std::find(names.begin(), names.end(), name);
    if (found == names.end())
        throw input_error(fmt::format("There is no kind '{}'{}.", printable(name), nearest_clause(name, names)));
    return static_cast<AttentionKind>(found - names.begin());
}

std::vector<AttentionItem> attention(const AttentionFacts& facts) { return Collector(facts).collect(); }

StoreRecords store_records(const Store& store) {
    StoreRecords out;
    out.damaged = store.baselines().damaged();
    const std::string now = utc_now();
    for (const MeasurementKind* kind : measurement_kinds()) {
        std::vector<Measurement> current = store.measurements().all_versions(*kind, &out.damaged);
        std::erase_if(current, [](const Measurement& m) { return !m.state.is_current(); });
        for (DueAgain& due : due_again(*kind, current, now)) out.due.push_back(std::move(due));
    }
    return out;
}

AttentionFindings look_closer(const Revision& published, const FleetKnowledge& knowledge, const Fleet& fleet,
                              const std::shared_ptr<const std::vector<Profile>>& versions,
                              const std::vector<NotedFrame>& noted, StoreRecords records) {
    AttentionFindings out;
    if (published.number > 0) out.published_lint = lint(published, knowledge.groups(), knowledge.bodies);
    out.profile_concerns = profile_concerns(*versions);
    out.behind_versions = behind_versions(noted, fleet, versions);
    out.damaged_records = std::move(records.damaged);
    out.due = std::move(records.due);
    return out;
}

std::vector<AttentionItem> attention(const Store& store, Progress& progress) {
    const std::vector<FrameRecord> frames = store.frames().all();
    const std::shared_ptr<const Fleet> fleet = store.registry().fleet();
    const auto versions = std::make_shared<const std::vector<Profile>>(store.profiles().all_versions());
    std::vector<Profile> in_use = *versions;
    std::erase_if(in_use, [](const Profile& p) { return !p.state.is_current(); });
    const FleetKnowledge knowledge = fleet_knowledge(frames, *fleet, in_use);
    const Revision current = store.baselines().current(), draft = store.baselines().draft();
    AttentionFacts facts;
    facts.any_frames = !frames.empty();
    facts.fleet = &knowledge;
    facts.current = &current;
    facts.draft = &draft;
    facts.profiles = versions.get();
    const std::vector<NotedFrame> noted = read_sidecars(frames, current_versions(*versions), facts, progress);
    AttentionFindings findings = look_closer(current, knowledge, *fleet, versions, noted, store_records(store));
    findings.unmatched_frames = remembered_unmatched(store, *fleet);
    facts.findings = &findings;
    facts.fingerprinted = body_measurements(store)->fingerprinted;
    facts.pending_changes = static_cast<int>(difference(current, draft).size());
    facts.rollouts = store.rollouts().list();
    facts.proposals = store.proposals().all();
    facts.may_approve = may_approve(store);
    facts.remarks = store.proposals().remarks();
    std::erase_if(facts.remarks, [](const Remark& r) { return r.settled; });
    facts.bundles = store.found_bundles().waiting();
    return attention(facts);
}

}  // namespace optrel
