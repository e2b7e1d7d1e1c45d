// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/services.h"

#include <QString>

#include "base/station.h"
#include "jobs.h"
#include "studio/fleet/claim.h"
#include "studio/rollout/rolling.h"

namespace optrel {

void RunService::save(const RunRecord& run) {
    jobs_.run_in_order([source = store_.source(), run] { source.open_for_writing().runs().put(run); });
}

void RunService::save(const BodyRun& run) {
    jobs_.run_in_order([source = store_.source(), run] { source.open_for_writing().body_runs().put(run); });
}

void RunService::save_frame(int run, int position, const RunFrame& frame) {
    jobs_.run_in_order([source = store_.source(), run, position, frame] {
        source.open_for_writing().runs().put_frame(run, position, frame);
    });
}

void RolloutService::work(const QString& title, const Work& what, const Done& done) {
    auto out = std::make_shared<RolloutReport>();
    jobs_.run(
        title,
        [out, what, source = store_.source(), paused = paused_](Progress& progress) {
            Store store = source.open_for_writing();
            *paused = false;
            *out = what(store, progress, [paused] { return !*paused; });
        },
        [out, done] { done(*out); });
}

void RolloutService::roll_out(std::shared_ptr<const Rehearsal> rehearsal, const std::string& scope,
                              const DayHours& hours, const Done& done) {
    work(
        "Rolling out",
        [rehearsal = std::move(rehearsal), scope, hours](Store& store, Progress& progress, const MayGoOn& may) {
            RolloutOrder order(current_author());
            order.scope = scope;
            order.hours = hours;
            return roll_out_rehearsed(store, *rehearsal, order, progress, may);
        },
        done);
}

void RolloutService::go_on(int number, bool at_once, bool leave_gone, const Done& done) {
    work(
        "Going on",
        [number, at_once, leave_gone](Store& store, Progress& progress, const MayGoOn& may) {
            return optrel::go_on(store, number, at_once, progress, {may, leave_gone});
        },
        done);
}

void RolloutService::again(int number, const Done& done) {
    work(
        "Rolling out again",
        [number](Store& store, Progress& progress, const MayGoOn&) { return roll_out_again(store, number, progress); },
        done);
}

void RolloutService::difference(int number,
                                std::function<void(std::shared_ptr<const Rehearsal>, const RehearsalCounts&)> done) {
    auto out = std::make_shared<Rehearsal>();
    auto counts = std::make_shared<RehearsalCounts>();
    jobs_.run(
        "Reading a rollout",
        [out, counts, number, source = store_.source()](Progress&) {
            const auto store = source.open_for_reading();
            *out = difference_of(*store, number);
            *counts = RehearsalCounts(*out);
        },
        [out, counts, done = std::move(done)] { done(out, *counts); });
}

std::map<std::string, FrameScope> RolloutService::selections() {
    std::map<std::string, FrameScope> out;
    for (const auto& [name, document] : store_.selections().all())
        out[name] = scope_from_json(document, "The selection '" + name + "'");
    return out;
}

void RolloutService::keep_selection(const std::string& name, const FrameScope& scope) {
    store_.selections().put(name, scope_to_json(scope));
}

void RolloutService::take_back_part(int number, const FrameScope& scope, const Done& done) {
    work(
        "Rolling back a part",
        [number, scope](Store& store, Progress& progress, const MayGoOn&) {
            return optrel::take_back_part(store, number, scope, current_author(), progress);
        },
        done);
}

void RolloutService::take_back(int number, bool leave_gone, const Done& done) {
    work(
        "Rolling back",
        [number, leave_gone](Store& store, Progress& progress, const MayGoOn& may) {
            return optrel::take_back(store, number, progress, {may, leave_gone});
        },
        done);
}

}  // namespace optrel
