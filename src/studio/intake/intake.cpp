// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/intake/intake.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/error.h"
#include "base/paths.h"
#include "base/times.h"
#include "base/words.h"
#include "studio/baselines/frame_sheets.h"
#include "studio/fleet/fingerprint_claims.h"
#include "studio/frames/knowledge.h"
#include "studio/intake/file_stamp.h"
#include "studio/intake/take_in.h"
#include "studio/rollout/rolling.h"

namespace optrel {
namespace fs = std::filesystem;

std::string to_string(ArrivalResult::What what) {
    static constexpr const char* names[] = {"baseline", "known", "failed"};
    return names[static_cast<int>(what)];
}

namespace {

/// Scope text of rollouts made by intake.
constexpr const char* arrived_scope = "frames that arrived";

/// A frame that is being taken in.
struct Arrival {
    FrameRecord record;
    ArrivalResult taken;
};

std::vector<Arrival> read_arrivals(const std::vector<fs::path>& files, IntakeReport& report, Progress& progress) {
    std::vector<Arrival> out;
    std::vector<FileProblem> problems;
    index_files(
        files, {},
        [&](const std::vector<FrameRecord>& portion) {
            for (const FrameRecord& f : portion) out.push_back({f, {f.path, ArrivalResult::What::known, "", ""}});
        },
        problems, progress);
    std::sort(out.begin(), out.end(), [](const Arrival& a, const Arrival& b) { return a.record.path < b.record.path; });
    for (const FileProblem& p : problems)
        report.frames.push_back({p.file, ArrivalResult::What::failed, p.sentence, ""});
    return out;
}

std::vector<FrameRecord> records_of(const std::vector<Arrival>& arrivals) {
    std::vector<FrameRecord> out;
    for (const Arrival& a : arrivals) out.push_back(a.record);
    return out;
}

/// Reason why a frame gets no baseline automatically; empty: it gets one.
std::string waits_because(const RehearsedFrame& f, const FrameFacts& facts, const IntakeOrder& order) {
    if (order.only_index) return "the folder's frames wait for a person";
    if (f.outcome == Outcome::exempt) return "it is exempt";
    if (f.outcome == Outcome::kept_hand_set) return "it is set by hand";
    if (f.before && !f.writes) return "it has its baseline already";
    if (f.before) return "it has a sidecar already; a rollout renews it";
    if (!facts.raw && order.raw_only) return "it is a rendered picture";
    if (f.outcome == Outcome::other_kind) return "no baseline is for its kind";
    if (f.outcome == Outcome::body_unknown && order.unknown_waits) return "its body is not known";
    return "";
}

/// Puts the set on top of what will be written.
void put_on_top(RehearsedFrame& f, const Revision& revision, const std::string& set, double iso) {
    Sheet sheet = sheet_from_xmp(f.after, sidecar_path(f.path).string());
    put_set_on_top(sheet, set_layer(revision, set, iso));
    f.after = sheet_to_xmp(sheet);
}

/// Writes the baselines, and records the result for each frame.
void write_baselines(Store& store, std::vector<Arrival>& arrivals, const IntakeOrder& order, IntakeReport& report,
                     Progress& progress) {
    const Revision revision = store.baselines().current();
    if (revision.number == 0) {
        for (Arrival& a : arrivals) a.taken.why = "no baseline is published yet";
        return;
    }
    if (!order.set.empty()) set_layer(revision, order.set, 100);  // throws for an unknown set
    const std::vector<FrameRecord> records = records_of(arrivals);
    std::map<fs::path, Arrival*> by_path;
    for (Arrival& a : arrivals) by_path[a.record.path] = &a;
    const auto fleet = store.registry().fleet();
    const FactsOfFrames facts = facts_of(records, *fleet);
    Rehearsal rehearsal = rehearse_frames(
        {std::make_shared<const RehearsalRequest::Frames>(records), {}, false, false, profiles_of(store)}, *fleet,
        revision, progress);
    std::vector<RehearsedFrame> written;
    for (std::size_t i = 0; i < rehearsal.frames.size(); ++i) {
        RehearsedFrame& f = rehearsal.frames[i];
        Arrival& a = *by_path.at(f.path);
        a.taken.body = f.body_label;
        if (f.outcome == Outcome::unreadable) {
            a.taken.what = ArrivalResult::What::failed;
            a.taken.why = f.reason;
            continue;
        }
        a.taken.why = waits_because(f, facts[i], order);
        if (!a.taken.why.empty()) continue;
        if (!order.set.empty()) put_on_top(f, revision, order.set, a.record.metadata.iso);
        f.writes = true;
        a.taken.what = ArrivalResult::What::baseline;
        written.push_back(std::move(f));
    }
    if (written.empty()) return;
    rehearsal.frames = std::move(written);
    RolloutOrder by(order.author);
    by.scope = arrived_scope;
    const RolloutReport done = roll_out_rehearsed(store, rehearsal, by, progress);
    report.revision = revision.number;
    report.rollout = done.record.number;
    for (const UnwrittenSidecar& u : done.unwritten) {
        ArrivalResult& t = by_path.at(u.frame)->taken;
        t.what = ArrivalResult::What::failed;
        t.why = u.sentence();
        t.planned = true;
    }
}

}  // namespace

IntakeOrder order_of(const IntakeFolder& folder, const std::string& author) {
    const bool over = !folder.set_until.empty() && utc_now() > folder.set_until;
    return {over ? std::string() : folder.set, folder.only_index, folder.raw_only, folder.unknown_waits, author};
}

IntakeOrder order_for(const Store& store, const fs::path& to, const std::string& author) {
    const fs::path folder = plain_path(to);
    for (const IntakeFolder& f : store.intake().folders())
        if (f.folder == folder || lies_within(folder, f.folder)) return order_of(f, author);
    IntakeOrder plain;
    plain.author = author;
    return plain;
}

bool known_as_it_stands(const Store& store, const fs::path& file) {
    const std::optional<FrameRecord> known = store.frames().find(file);
    return known && stamp_of(file) == FileStamp{known->size, known->modified};
}

std::vector<ArrivalRecord> arrivals_of(const IntakeReport& report, const IntakeOrder& order, const std::string& way) {
    std::vector<ArrivalRecord> out;
    for (const ArrivalResult& t : report.frames) {
        const bool written = t.what == ArrivalResult::What::baseline;
        out.push_back({utc_now(), way, t.frame, to_string(t.what), t.why, t.body, written ? order.set : std::string(),
                       written ? report.revision : 0, written ? report.rollout : 0});
    }
    return out;
}

namespace {

/// Adds frames of an arrival rollout that are missing from the log, because their program was killed.
void note_unlogged(Store& store, const RolloutRecord& rollout, Progress& progress) {
    std::set<fs::path> logged;
    for (const ArrivalRecord& a : store.intake().of_rollout(rollout.number)) logged.insert(a.frame);
    std::vector<fs::path> missing;
    std::set<fs::path> changed;
    for (const RolloutEntry& e : store.rollouts().entries(rollout)) {
        std::error_code none;
        // A frame that the store knows was logged in the same transaction.
        if (logged.count(e.frame) > 0 || !fs::exists(e.frame, none) || known_as_it_stands(store, e.frame)) continue;
        const std::optional<std::string> now = read_sidecar(e.frame);
        // Without a sidecar the frame was not written and will be taken in again.
        if (!now) continue;
        missing.push_back(e.frame);
        if (!e.after || *e.after != *now) changed.insert(e.frame);
    }
    if (missing.empty()) return;
    IntakeReport report;
    const std::vector<Arrival> arrivals = read_arrivals(missing, report, progress);
    const std::shared_ptr<const Fleet> fleet = store.registry().fleet();
    std::vector<FrameRecord> known;
    std::vector<ArrivalRecord> log;
    for (const Arrival& a : arrivals) {
        known.push_back(a.record);
        const bool ours = changed.count(a.record.path) == 0;
        log.push_back({utc_now(), "folder", a.record.path,
                       to_string(ours ? ArrivalResult::What::baseline : ArrivalResult::What::known),
                       ours ? "" : "its sidecar was changed since the rollout wrote it",
                       scoped(a.record, *fleet).body_label, "", ours ? rollout.revision : 0,
                       ours ? rollout.number : 0});
    }
    Transaction together(store.engine());
    store.frames().put(known);
    store.intake().log(log);
    together.commit();
}

}  // namespace

void finish_arrivals(Store& store, Progress& progress, const std::function<void(const std::string&)>& problem) {
    constexpr std::size_t newest = 50;
    std::vector<RolloutRecord> ours;
    const std::vector<RolloutRecord> all = store.rollouts().list();
    for (const RolloutRecord& r : all)
        if (r.status == RolloutStatus::preparing) try {
                store.rollouts().give_up(r.number);
            } catch (const Error&) {
                // It is just beginning.
            }
    for (const RolloutRecord& r : all)
        if (r.scope == arrived_scope && (r.status == RolloutStatus::writing || r.status == RolloutStatus::done) &&
            ours.size() < newest)
            ours.push_back(r);
    std::reverse(ours.begin(), ours.end());
    for (const RolloutRecord& r : ours) try {
            // Rollouts that another program is working on are left to it.
            if (r.status == RolloutStatus::writing && go_on(store, r.number, true, progress).lost) continue;
            note_unlogged(store, r, progress);
        } catch (const FramesInUse&) {
            continue;
        } catch (const Error& error) {
            problem(fmt::format("Rollout {} of frames that arrived cannot be ended: {}", r.number, error.what()));
        }
}

IntakeReport take_in_arrivals(Store& store, const std::vector<fs::path>& files, const IntakeOrder& order,
                              Progress& progress, const std::function<void(const IntakeReport&)>& log) {
    IntakeReport report;
    std::vector<Arrival> arrivals = read_arrivals(files, report, progress);
    // Before their baselines, which depend on the body.
    report.problems = claim_arrivals(store, records_of(arrivals), order.author, progress);
    if (!arrivals.empty()) write_baselines(store, arrivals, order, report, progress);
    std::vector<FrameRecord> known;
    for (Arrival& a : arrivals) {
        if (a.taken.what != ArrivalResult::What::failed) known.push_back(a.record);
        report.frames.push_back(std::move(a.taken));
    }
    // Indexing and logging are one transaction, so that a killed program leaves no frame without a log entry.
    Transaction together(store.engine());
    if (!known.empty()) store.frames().put(known);
    if (log) log(report);
    together.commit();
    return report;
}

}  // namespace optrel
