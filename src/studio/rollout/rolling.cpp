// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/rollout/rolling.h"

#include <fmt/format.h>

#include <algorithm>
#include <optional>
#include <set>

#include "base/error.h"
#include "base/gently.h"
#include "base/parallel.h"
#include "base/station.h"
#include "studio/frames/knowledge.h"
#include "studio/profiles/profile_chooser.h"
#include "studio/rollout/approvals.h"
#include "studio/rollout/relocating_rollout_store.h"

namespace optrel {

namespace {

MayGoOn within(const DayHours& hours, const MayGoOn& may) {
    if (hours.whole_day()) return may;
    return [hours, may] { return hours.hold_now() && (!may || may()); };
}

RolloutReport gently_done(const std::function<RolloutReport()>& work) {
    RolloutReport out;
    gently([&] { out = work(); });
    return out;
}

}  // namespace

RolloutReport roll_out_rehearsed(Store& store, const Rehearsal& rehearsal, RolloutOrder order, Progress& progress,
                                 const MayGoOn& may) {
    order.station = this_station();
    require_approved(store, rehearsal);
    RelocatingRolloutStore shelf(store);
    const int current = store.baselines().current().number;
    return gently_done(
        [&] { return roll_out(rehearsal, current, shelf, order, progress, {within(order.hours, may)}); });
}

RolloutReport go_on(Store& store, int number, bool at_once, Progress& progress, const WriteOptions& manner) {
    const DayHours hours = at_once ? DayHours() : store.rollouts().record(number).hours;
    RelocatingRolloutStore shelf(store);
    return gently_done([&] { return resume(shelf, number, progress, {within(hours, manner.may), manner.leave_gone}); });
}

RolloutReport take_back(Store& store, int number, Progress& progress, const WriteOptions& manner) {
    RelocatingRolloutStore shelf(store);
    return gently_done([&] { return roll_back(shelf, number, progress, manner); });
}

RolloutReport take_back_part(Store& store, int number, const FrameScope& scope, const std::string& author,
                             Progress& progress) {
    std::set<std::filesystem::path> chosen;
    for (const FrameRecord& f : frames_of(scope, store.frames().all(), *store.registry().fleet(), progress))
        chosen.insert(f.path);
    RolloutOrder order(author);
    order.station = this_station();
    order.scope = in_words(scope);
    RelocatingRolloutStore shelf(store);
    return gently_done([&] {
        return roll_back_part(
            shelf, number, [&](const std::filesystem::path& frame) { return chosen.count(frame) > 0; }, order,
            progress);
    });
}

RolloutReport roll_out_again(Store& store, int number, Progress& progress) {
    RelocatingRolloutStore shelf(store);
    return gently_done([&] { return roll_again(shelf, number, progress); });
}

std::vector<RolloutRecord> due_rollouts(const Store& store) {
    std::vector<RolloutRecord> out;
    for (RolloutRecord& r : store.rollouts().list())
        if (r.status == RolloutStatus::writing && !r.hours.whole_day() && r.hours.hold_now() &&
            r.station == this_station())
            out.push_back(std::move(r));
    std::reverse(out.begin(), out.end());
    return out;
}

Rehearsal difference_of(const Store& store, int number) {
    const RelocatedRollouts shelf(store);
    const RolloutRecord record = shelf.record(number);
    Rehearsal out;
    out.revision = record.revision;
    const auto fleet = store.registry().fleet();
    for (const RolloutEntry& e : shelf.entries(record)) {
        RehearsedFrame f;
        f.path = e.frame;
        const auto known = store.frames().find(e.frame);
        f.body_label = known ? scoped(*known, *fleet).body_label : "not known any more";
        const auto layer = [&](const std::optional<std::string>& bytes) {
            return bytes ? sheet_from_xmp(*bytes, sidecar_path(e.frame).string()).baseline : Layer();
        };
        f.changes = changes_between(layer(e.before), layer(e.after));
        f.outcome = f.changes.empty() ? Outcome::same : Outcome::changes;
        f.writes = true;
        f.before = e.before;
        f.after = e.after.value_or(SharedText());
        out.frames.push_back(std::move(f));
    }
    return out;
}

RolloutRecord rollout_of(const Store& store, int number) {
    for (const RolloutRecord& r : store.rollouts().list())
        if (number == 0 || r.number == number) return r;
    throw input_error(
        number == 0 ? std::string("Nothing was rolled out from this store yet; there is nothing to take back.")
                    : fmt::format("There is no rollout {} in this store; 'store list rollouts' shows them.", number));
}

}  // namespace optrel
