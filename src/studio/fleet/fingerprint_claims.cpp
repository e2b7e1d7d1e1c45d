// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/fleet/fingerprint_claims.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/numbers.h"
#include "base/words.h"
#include "sensor/fingerprint.h"
#include "sensor/fingerprint_kind.h"
#include "studio/fleet/claim.h"
#include "studio/fleet/fingerprints.h"
#include "studio/frames/body_measurements.h"
#include "studio/frames/knowledge.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

std::string label_of(const Fleet& fleet, const std::string& id) {
    const Body* body = fleet.body(id);
    return body ? body->label() : id;
}

/// What is compared: frames of unknown bodies, and the newest of each body with a fingerprint.
struct Selection {
    std::vector<fs::path> frames;
    std::vector<std::string> reported;  ///< ids; empty: unknown or assumed
};

Selection frames_to_compare(const Store& store, const Fleet& fleet, const std::set<std::string>& with_fingerprint) {
    Selection out;
    std::map<std::string, std::vector<std::pair<std::string, fs::path>>> newest;
    for (const FrameRecord& frame : store.frames().all()) {
        if (frame.metadata->kind != FrameKind::raw) continue;
        const FrameKnowledge known = know(frame.path, frame.metadata, fleet);
        if (known.facts.body_knowledge != BodyKnowledge::known) {
            out.frames.push_back(frame.path);
            out.reported.emplace_back();
        } else if (with_fingerprint.count(known.facts.body) > 0 && !known.body.claimed) {
            newest[known.facts.body].emplace_back(frame.metadata.time(), frame.path);
        }
    }
    for (auto& [body, frames] : newest) {
        std::sort(frames.rbegin(), frames.rend());
        for (std::size_t i = 0; i < std::min<std::size_t>(frames.size(), frames_checked); ++i) {
            out.frames.push_back(frames[i].second);
            out.reported.push_back(body);
        }
    }
    return out;
}

std::string reason_of(const FingerprintProposal& p) {
    return fmt::format(
        "known by the fingerprint of its sensor: figure {} or more, threshold {}, chance of a false alarm "
        "{:.0e} a frame",
        number_text(figures::fingerprint, p.least_figure),
        number_text(figures::fingerprint, fingerprint_threshold * fingerprint_threshold),
        p.compared * false_alarm_rate(fingerprint_threshold));
}

/// Collects recognised frames into one proposal for each body.
class ProposalsByBody {
public:
    void add(const RecognisedFrame& seen) {
        FingerprintProposal& p = by_body_[seen.body];
        const double figure = seen.z * seen.z;
        p.body = seen.body;
        p.least_figure = p.frames.empty() ? figure : std::min(p.least_figure, figure);
        p.compared = std::max(p.compared, seen.compared);
        p.frames.push_back(seen.frame);
    }
    std::vector<FingerprintProposal> all() {
        std::vector<FingerprintProposal> out;
        for (auto& [body, proposal] : by_body_) {
            proposal.sentence = reason_of(proposal);
            out.push_back(std::move(proposal));
        }
        return out;
    }

private:
    std::map<std::string, FingerprintProposal> by_body_;
};

/// Kind of the run that keeps the unmatched frames.
constexpr const char* unmatched_kind = "fingerprint";

/// "f1a2b3@1 f4c5d6@2": the fingerprints that are current.
std::string current_fingerprints(const Store& store) {
    return fmt::format("{}", fmt::join(body_measurements(store)->fingerprints, " "));
}

constexpr const char* limit_setting = "fingerprint_claims_from";

/// Adds frames that show another sensor than that of the body that they report.
void find_foreign(const Selection& chosen, const std::vector<RecognisedFrame>& seen, const Fleet& fleet,
                  FingerprintFindings& out) {
    std::map<std::string, int> own;
    for (std::size_t i = 0; i < seen.size(); ++i)
        if (!chosen.reported[i].empty() && seen[i].body == chosen.reported[i]) ++own[chosen.reported[i]];
    for (std::size_t i = 0; i < seen.size(); ++i) {
        const std::string& reported = chosen.reported[i];
        if (reported.empty() || seen[i].compared == 0 || seen[i].body == reported) continue;
        const std::string name = printable(seen[i].frame.filename().string()), body = label_of(fleet, reported);
        if (!seen[i].body.empty())
            out.foreign.push_back(
                {seen[i].frame, reported, seen[i].body,
                 fmt::format("The frame {} reports {}, but shows the sensor of {} (figure {}): the body was "
                             "swapped, or its number is wrong; check which body took it.",
                             name, body, label_of(fleet, seen[i].body),
                             number_text(figures::fingerprint, seen[i].z * seen[i].z))});
        else if (own[reported] == 0)
            out.foreign.push_back(
                {seen[i].frame, reported, "",
                 fmt::format("The frame {} reports {}, but none of its newest frames shows the sensor of its "
                             "fingerprint: it has "
                             "another sensor, for example after a repair; learn its fingerprint again.",
                             name, body)});
    }
}

}  // namespace

FingerprintFindings look_by_fingerprint(const Store& store, Progress& progress) {
    const auto fleet = store.registry().fleet();
    std::set<std::string> with_fingerprint;
    for (const Measurement& m : store.measurements().current(fingerprint_kind()))
        with_fingerprint.insert(fingerprint_from_json(m.document, m.name).body);
    const Selection chosen = frames_to_compare(store, *fleet, with_fingerprint);
    const std::vector<RecognisedFrame> seen = recognise_frames(store, chosen.frames, progress);
    FingerprintFindings out;
    ProposalsByBody proposals;
    for (std::size_t i = 0; i < seen.size(); ++i) {
        ++out.looked_at;
        // Sensors of another size are no problem of a frame.
        if (!seen[i].problem.empty() && seen[i].compared > 0) out.problems.push_back(seen[i].problem);
        if (chosen.reported[i].empty() && !seen[i].body.empty()) proposals.add(seen[i]);
        if (chosen.reported[i].empty() && seen[i].body.empty() && seen[i].compared > 0)
            out.unmatched.push_back(seen[i].frame);
    }
    out.proposals = proposals.all();
    find_foreign(chosen, seen, *fleet, out);
    return out;
}

void remember_unmatched(Store& store, const FingerprintFindings& findings) {
    BodyRun kept;
    for (BodyRun& run : store.body_runs().all())
        if (run.kind == unmatched_kind) kept = std::move(run);
    kept.kind = unmatched_kind;
    kept.name = "Frames that show no sensor of a fingerprint";
    kept.frames.clear();
    for (const fs::path& frame : findings.unmatched) kept.frames.push_back({frame, false});
    kept.result = current_fingerprints(store);
    store.body_runs().put(kept);
}

int remembered_unmatched(const Store& store, const Fleet& fleet) {
    const std::string current = current_fingerprints(store);
    if (current.empty()) return 0;
    int out = 0;
    for (const BodyRun& run : store.body_runs().all()) {
        if (run.kind != unmatched_kind || run.result != current) continue;
        for (const BodyRunFrame& f : run.frames)
            if (const auto frame = store.frames().find(f.path))
                out += know(frame->path, frame->metadata, fleet).facts.body_knowledge != BodyKnowledge::known;
    }
    return out;
}

double figure_without_asking(const Store& store) {
    return std::max(0.0, parse_number(store.settings().get(limit_setting)).value_or(0));
}

void put_figure_without_asking(Store& store, double figure) {
    constexpr double threshold = fingerprint_threshold * fingerprint_threshold;
    if (figure != 0 && !(figure >= threshold && figure < 1e9))
        throw input_error(
            fmt::format("Frames are claimed from a figure of {} up, the threshold of recognition; give 0 for never.",
                        number_text(figures::fingerprint, threshold)));
    store.settings().put(limit_setting, figure == 0 ? "" : fmt::format("{:g}", figure));
}

std::vector<std::string> claim_arrivals(Store& store, const std::vector<FrameRecord>& frames, const std::string& author,
                                        Progress& progress) {
    const double least = figure_without_asking(store);
    if (least == 0 || body_measurements(store)->fingerprinted.empty()) return {};
    const auto fleet = store.registry().fleet();
    std::vector<fs::path> unknown;
    for (const FrameRecord& frame : frames)
        if (frame.metadata->kind == FrameKind::raw &&
            know(frame.path, frame.metadata, *fleet).facts.body_knowledge != BodyKnowledge::known)
            unknown.push_back(frame.path);
    if (unknown.empty()) return {};
    std::vector<std::string> problems;
    try {
        ProposalsByBody proposals;
        for (const RecognisedFrame& seen : recognise_frames(store, unknown, progress))
            if (!seen.body.empty() && seen.z * seen.z >= least) proposals.add(seen);
        Accepted accepted;
        for (const FingerprintProposal& p : proposals.all()) accepted.claims.push_back(claim_of(p));
        if (!accepted.claims.empty()) store.registry().edit(edit_for(accepted), author);
    } catch (const Cancelled&) {
        throw;
    } catch (const Error& error) {
        problems.push_back(fmt::format("Frames that arrived are not claimed by their fingerprint: {}", error.what()));
    }
    return problems;
}

Claim claim_of(const FingerprintProposal& proposal) {
    Claim claim;
    claim.of = Claim::Of::body;
    claim.target = proposal.body;
    claim.fingerprint_figure = proposal.least_figure;
    claim.note = proposal.sentence;
    for (const fs::path& frame : proposal.frames) claim.frames.push_back(frame.string());
    return claim;
}

}  // namespace optrel
