// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/queue/check_work.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "base/error.h"
#include "base/json_text.h"
#include "base/station.h"
#include "base/words.h"
#include "studio/checks/drift_json.h"
#include "studio/queue/every_kind.h"
#include "studio/queue/portion_paths.h"
#include "studio/queue/portion_sums.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

using nlohmann::json;

/// Searches for frames that other portions reported as missing.
PortionResult look_for_gone(const Store& store, const QueuedPortion& portion, Progress& progress) {
    DriftReport report;
    for (const QueuedPortion& p : store.queue().results(portion.job)) {
        if (p.position == portion.position) continue;
        if (p.state == PortionState::waiting) throw WorkDeferred("The other portions of this check come first.", false);
        if (p.state == PortionState::done) add_drift(report, store, parse_json(p.result, "The result of a portion"));
    }
    std::erase_if(report.findings, [](const DriftFinding& d) { return d.kind != Drift::frame_gone; });
    report.frames = 0;
    look_for_moved(store, report, progress);
    return {json_text(drift_json(store, report))};
}

/// When a share is not mounted, all its frames would seem to be missing.
void require_shares(const Store& store, const std::vector<FrameRecord>& frames) {
    std::error_code none;
    for (const RootPlace& r : store.roots().all())
        if (r.station == this_station() && (fs::is_empty(r.folder, none) || none))
            throw WorkDeferred(fmt::format("The folder of the root '{}' is empty or away at this station.", r.root));
    const bool shared = is_server_address(store.source().address());
    fs::path last;
    for (const FrameRecord& f : frames) {
        require_root(f.path);
        const fs::path folder = f.path.parent_path();
        if (!shared || folder == last) continue;
        last = folder;
        if (!fs::is_directory(folder, none) && store.kept(f.path).front() == '/')
            throw WorkDeferred(
                fmt::format("{} is not at this station and in no root, so it is unknown whether it still exists.",
                            printable(folder.string())));
    }
}

PortionResult do_check(const Work& work) {
    auto& [store, portion, what, progress] = work;
    if (what.contains("gone")) return look_for_gone(store, portion, progress);
    const std::vector<FrameRecord> frames =
        store.frames().within(what.at("from").get<std::string>(), what.at("to").get<std::string>());
    require_shares(store, frames);
    return {json_text(drift_json(store, check_frames(store, frames, progress)))};
}

DriftReport drift_in(const WorkResults& results) {
    auto& [store, job, portions] = results;
    DriftReport out;
    bool looked_for = false;
    for (const QueuedPortion& p : portions) {
        if (p.state != PortionState::done) continue;
        const json result = parse_json(p.result, fmt::format("The result of job {}", job.id));
        // The last portion reports what the others found missing.
        if (p.position + 1 == job.portions) {
            std::erase_if(out.findings, [](const DriftFinding& d) { return d.kind == Drift::frame_gone; });
            looked_for = true;
        }
        add_drift(out, store, result);
    }
    if (!looked_for && job.ended()) out.problems.emplace_back("What is gone was not looked for in other folders.");
    return out;
}

void tell_check(const WorkResults& results, std::vector<std::string>& lines) {
    const DriftReport report = drift_in(results);
    std::map<Drift, int> kinds;
    for (const DriftFinding& d : report.findings) ++kinds[d.kind];
    std::string found;
    for (const auto& [kind, n] : kinds) found += fmt::format("{}{} {}", found.empty() ? "" : ", ", n, to_string(kind));
    lines.push_back(fmt::format("{} looked at; {}.", counted(report.frames, "frame", "frames"),
                                found.empty() ? "nothing has drifted" : found));
    lines.insert(lines.end(), report.problems.begin(), report.problems.end());
    for (const DriftFinding& d : report.findings)
        lines.push_back(fmt::format("{}: {}{}{}", printable(d.frame.string()), to_string(d.kind),
                                    d.what.empty() ? "" : ", ", d.what));
}

}  // namespace

DriftReport drift_of_job(const Store& store, int number) {
    const QueuedJob job = store.queue().job(number);
    if (job.kind != check_work().id())
        throw input_error(fmt::format("Job {} is no check; 'optrel-cli queue list' tells which are.", number));
    if (!job.ended()) throw input_error(fmt::format("Job {} has not ended; wait for it.", number));
    const std::vector<QueuedPortion> portions = store.queue().results(number);
    return drift_in({store, job, portions});
}

const QueueKind& check_work() {
    static const QueueKind kind("check", do_check, tell_check);
    return kind;
}

}  // namespace optrel
