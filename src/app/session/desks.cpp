// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/desks.h"

#include <QString>

#include "jobs.h"
#include "studio/claim.h"
#include "studio/rolling.h"

namespace optrel {

void RunDesk::save(const RunRecord& run) {
    jobs_.run_in_order([source = store_.source(), run] { source.open().runs().put(run); });
}

void RunDesk::save_frame(int run, int position, const RunFrame& frame) {
    jobs_.run_in_order(
        [source = store_.source(), run, position, frame] { source.open().runs().put_frame(run, position, frame); });
}

void RolloutDesk::work(const QString& title, Access access, const std::function<RolloutReport(Store&, Progress&)>& what,
                       const Done& done) {
    auto out = std::make_shared<RolloutReport>();
    jobs_.run(
        title,
        [out, what, access, source = store_.source()](Progress& progress) {
            Store store = source.open(access);
            *out = what(store, progress);
        },
        [out, done] { done(*out); });
}

void RolloutDesk::roll_out(const Rehearsal& rehearsal, const Done& done) {
    work(
        "Rolling out", Access::write,
        [rehearsal](Store& store, Progress& progress) {
            return roll_out_rehearsed(store, rehearsal, current_author(), progress);
        },
        done);
}

void RolloutDesk::go_on(int number, const Done& done) {
    work(
        "Going on", Access::read,
        [number](Store& store, Progress& progress) { return optrel::go_on(store, number, progress); }, done);
}

void RolloutDesk::take_back(int number, const Done& done) {
    work(
        "Rolling back", Access::read,
        [number](Store& store, Progress& progress) { return optrel::take_back(store, number, progress); }, done);
}

}  // namespace optrel
