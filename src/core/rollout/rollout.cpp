// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/rollout.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>
#include <thread>

#include "base/boot_clock.h"
#include "base/error.h"
#include "base/files.h"
#include "base/station.h"
#include "base/times.h"

namespace optrel {
namespace {

namespace fs = std::filesystem;

/// An unmounted share looks like a missing or empty folder.
bool folder_is_gone(const fs::path& frame) {
    std::error_code failed;
    const fs::path folder = frame.parent_path();
    const bool there = fs::is_directory(folder, failed) && !fs::is_empty(folder, failed);
    return !there || failed;
}

/// The lease expired during the write of a sidecar, which was not renamed.
struct LeaseOver {};

/// Whether the lease is still held. Waits while the store cannot be asked and the lease has expired.
bool still_has(RolloutStore::Lease& lease, const Progress& progress) {
    using namespace std::chrono_literals;
    using Standing = RolloutStore::Lease::Standing;
    for (auto until = boot_now() + 120s;; std::this_thread::sleep_for(200ms)) {
        const Standing standing = lease.ask();
        if (standing != Standing::unknown || lease.valid()) return standing != Standing::lost;
        progress.check();
        if (boot_now() > until)
            throw store_error(
                "The store could not be asked for two minutes, so nothing more was written; go on with this rollout "
                "once it is back.");
    }
}

/// Writes one sidecar and records the result. Throws LeaseOver.
void carry_one(const RolloutEntry& e, bool forward, bool leave_gone, const RolloutStore::Lease& lease,
               RolloutReport& report) {
    std::error_code none;
    const bool gone = !fs::exists(e.frame, none);
    if (gone && folder_is_gone(e.frame)) {
        report.unwritten.push_back(
            {e.frame, leave_gone ? UnwrittenReason::folder_left_out : UnwrittenReason::folder_gone});
        return;
    }
    const bool file = fs::is_regular_file(e.frame, none);
    if (forward && e.after && !file) {
        report.unwritten.push_back({e.frame, gone ? UnwrittenReason::frame_gone : UnwrittenReason::no_file});
        return;
    }
    const auto fence = [&] {
        if (!lease.valid()) throw LeaseOver();
    };
    const SidecarWrite carried = forward ? replace_sidecar_if_unchanged(e.frame, e.before, e.after, fence)
                                         : replace_sidecar_if_unchanged(e.frame, e.after, e.before, fence);
    if (carried == SidecarWrite::written) ++report.written;
    if (carried == SidecarWrite::changed) report.unwritten.push_back({e.frame, UnwrittenReason::changed_since});
}

/// carry_one() while the lease is held. Returns false when it is lost.
bool carried_as_ours(const RolloutEntry& e, bool forward, const WriteOptions& manner, RolloutStore::Lease& lease,
                     const Progress& progress, RolloutReport& report) {
    for (;;) {
        if (!still_has(lease, progress)) return false;
        try {
            carry_one(e, forward, manner.leave_gone, lease, report);
            return true;
        } catch (const LeaseOver&) {
            // The store decides whether somebody took the frames meanwhile.
        } catch (const std::exception& error) {
            report.unwritten.push_back({e.frame, UnwrittenReason::write_failed, error.what()});
            return true;
        }
    }
}

/// Writes all sidecars forward or back. The caller holds the lease.
RolloutReport write_sidecars(RolloutStore& rollouts, RolloutStore::Lease& lease, const RolloutRecord& record,
                             std::vector<RolloutEntry> entries, bool forward, Progress& progress,
                             const WriteOptions& manner = {}) {
    RolloutReport report;
    report.record = record;
    // Deletions first: they free space that the others may need.
    std::stable_partition(entries.begin(), entries.end(),
                          [&](const RolloutEntry& e) { return forward ? !e.after : !e.before; });
    std::map<fs::path, std::set<std::string>> sidecars_by_folder;
    std::size_t carried = 0;
    progress.start(static_cast<int>(entries.size()), forward ? "Rolling out" : "Rolling back");
    for (const RolloutEntry& e : entries) {
        progress.check();
        if (manner.may && !manner.may()) {
            report.paused = true;
            break;
        }
        sidecars_by_folder[e.frame.parent_path()].insert(sidecar_path(e.frame).filename().string());
        if (!carried_as_ours(e, forward, manner, lease, progress, report)) {
            report.lost = true;
            break;
        }
        ++carried;
        progress.step();
    }
    if (report.lost)
        for (; carried < entries.size(); ++carried)
            report.unwritten.push_back({entries[carried].frame, UnwrittenReason::other_station});
    for (const auto& [folder, sidecars] : sidecars_by_folder)
        sweep_parts(folder, report.lost ? std::set<std::string>() : sidecars);
    report.record.status = forward ? RolloutStatus::writing : RolloutStatus::rolling_back;
    if (!report.complete()) return report;
    report.record.status = forward ? RolloutStatus::done : RolloutStatus::rolled_back;
    rollouts.set_status(record.number, report.record.status);
    return report;
}

std::string who_by(const std::string& author, const std::string& station) {
    const std::string by = "A rollout of " + (author.empty() ? "somebody" : author);
    return station.empty() ? by : by + " at " + station;
}

std::vector<fs::path> frames_of(const std::vector<RolloutEntry>& entries) {
    std::vector<fs::path> out;
    out.reserve(entries.size());
    for (const RolloutEntry& e : entries) out.push_back(e.frame);
    return out;
}

/// An existing rollout, leased for work on it.
struct Leased {
    std::vector<RolloutEntry> entries;  ///< empty when it never began
    std::unique_ptr<RolloutStore::Lease> lease;
    RolloutRecord record;  ///< read after leasing
};
Leased leased(RolloutStore& rollouts, int number) {
    Leased out;
    const RolloutRecord before = rollouts.record(number);
    const bool begun = before.status != RolloutStatus::preparing;
    if (begun) out.entries = rollouts.entries(before);
    out.lease = rollouts.lease(frames_of(out.entries), who_by(before.author, this_station()));
    out.record = rollouts.record(number);
    out.lease->is_for(number);
    if (!begun && out.record.status != RolloutStatus::preparing)
        throw input_error(fmt::format("Rollout {} has begun just now at another station; try again.", number));
    return out;
}

/// Throws when a sidecar differs from its rehearsal.
void require_as_rehearsed(const std::vector<RolloutEntry>& entries, const Progress& progress) {
    for (const RolloutEntry& e : entries) {
        progress.check();
        if (read_sidecar(e.frame) != e.before)
            throw input_error(fmt::format("{} was changed since the rehearsal; nothing was written, rehearse again.",
                                          sidecar_path(e.frame).string()));
    }
}

RolloutRecord record_of(const RolloutOrder& order, const std::vector<RolloutEntry>& entries) {
    RolloutRecord out;
    out.author = order.author;
    out.station = order.station;
    out.scope = order.scope;
    out.hours = order.hours;
    out.time = utc_now();
    out.frames = static_cast<int>(entries.size());
    return out;
}

}  // namespace

std::vector<RolloutEntry> entries_of(const Rehearsal& rehearsal) {
    std::vector<RolloutEntry> out;
    for (const RehearsedFrame& f : rehearsal.frames)
        if (f.writes) out.push_back({f.path, f.before, f.after});
    return out;
}

std::vector<UnwrittenSidecar> RolloutReport::those(bool (UnwrittenSidecar::*is)() const) const {
    std::vector<UnwrittenSidecar> out;
    for (const UnwrittenSidecar& u : unwritten)
        if ((u.*is)()) out.push_back(u);
    return out;
}

int RolloutReport::count(UnwrittenReason reason) const {
    return static_cast<int>(std::count_if(unwritten.begin(), unwritten.end(),
                                          [&](const UnwrittenSidecar& u) { return u.reason == reason; }));
}

RolloutReport roll_out(const Rehearsal& rehearsal, int current_revision, RolloutStore& rollouts,
                       const RolloutOrder& order, Progress& progress, const WriteOptions& manner) {
    if (rehearsal.revision != current_revision)
        throw input_error(fmt::format("Revision {} was rehearsed, but revision {} is current now; rehearse again.",
                                      rehearsal.revision, current_revision));
    std::vector<fs::path> frames;
    for (const RehearsedFrame& f : rehearsal.frames)
        if (f.writes) frames.push_back(f.path);
    const auto lease = rollouts.lease(frames, who_by(order.author, order.station));
    frames = {};
    std::vector<RolloutEntry> entries = entries_of(rehearsal);
    require_as_rehearsed(entries, progress);
    RolloutRecord record = record_of(order, entries);
    record.revision = rehearsal.revision;
    // A process that was suspended must not begin a rollout that would remain open.
    if (!still_has(*lease, progress))
        throw FramesInUse(
            "Another rollout took these frames while this one was stopped; look at them, then try again.");
    rollouts.begin(record, entries);
    lease->is_for(record.number);
    RolloutReport report = write_sidecars(rollouts, *lease, record, std::move(entries), true, progress, manner);
    for (const RehearsedFrame& f : rehearsal.frames)
        if (f.outcome == Outcome::unreadable)
            report.unwritten.push_back({f.path, UnwrittenReason::unreadable, f.reason});
    return report;
}

RolloutReport resume(RolloutStore& rollouts, int number, Progress& progress, const WriteOptions& manner) {
    auto [entries, lease, now] = leased(rollouts, number);
    if (now.status == RolloutStatus::preparing)
        throw input_error(
            fmt::format("Rollout {} stopped before it wrote anything, so there is nothing to go on with; rehearse and "
                        "roll out again.",
                        now.number));
    const bool forward = now.status == RolloutStatus::writing || now.status == RolloutStatus::done;
    return write_sidecars(rollouts, *lease, now, std::move(entries), forward, progress, manner);
}

RolloutReport roll_back(RolloutStore& rollouts, int number, Progress& progress, const WriteOptions& manner) {
    auto [entries, lease, now] = leased(rollouts, number);
    if (now.status == RolloutStatus::preparing) {
        rollouts.give_up(number);
        RolloutReport report;
        report.record = now;
        report.record.status = RolloutStatus::rolled_back;
        return report;
    }
    try {
        if (now.status != RolloutStatus::rolled_back) rollouts.set_status(number, RolloutStatus::rolling_back);
    } catch (const Error&) {
        // On a full disk the status cannot be saved; the sidecars themselves show the progress.
    }
    return write_sidecars(rollouts, *lease, now, std::move(entries), false, progress, manner);
}

RolloutReport roll_again(RolloutStore& rollouts, int number, Progress& progress) {
    auto [entries, lease, now] = leased(rollouts, number);
    if (now.status != RolloutStatus::rolled_back)
        throw input_error(fmt::format(
            "Rollout {} is {}, not rolled back, so there is nothing to roll out again; 'resume' goes on with "
            "one that was stopped.",
            number, to_string(now.status)));
    rollouts.set_status(number, RolloutStatus::writing);
    return write_sidecars(rollouts, *lease, now, std::move(entries), true, progress);
}

RolloutReport roll_back_part(RolloutStore& rollouts, int number, const std::function<bool(const fs::path&)>& chosen,
                             const RolloutOrder& order, Progress& progress) {
    const RolloutRecord whole = rollouts.record(number);
    std::vector<RolloutEntry> entries;
    for (RolloutEntry& e : rollouts.entries(whole))
        if (chosen(e.frame)) entries.push_back({e.frame, std::move(e.after), std::move(e.before)});
    if (entries.empty())
        throw input_error(fmt::format(
            "None of the frames that rollout {} wrote is among those chosen, so there is nothing to take back.",
            number));
    const auto lease = rollouts.lease(frames_of(entries), who_by(order.author, order.station));
    RolloutRecord record = record_of(order, entries);
    record.takes_back = number;
    rollouts.begin(record, entries);
    return write_sidecars(rollouts, *lease, record, std::move(entries), true, progress);
}

}  // namespace optrel
