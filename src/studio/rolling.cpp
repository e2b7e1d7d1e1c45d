// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/rolling.h"

#include <fmt/format.h>

#include "base/error.h"
#include "studio/knowledge.h"
#include "studio/scope.h"

namespace optrel {

Rehearsal rehearse_frames(const RehearsalRequest& request, const Fleet& fleet, const Revision& revision,
                          Progress& progress) {
    if (revision.number == 0)
        throw input_error("No revision is published yet, so there is nothing to roll out; publish the draft first.");
    const std::vector<FrameRecord> frames = frames_in(request.frames, request.folders);
    return rehearse(scope_of(frames, fleet), revision.number, Resolver(revision), request.renew_hand_set, progress);
}

RolloutReport roll_out_rehearsed(Store& store, const Rehearsal& rehearsal, const std::string& author,
                                 Progress& progress) {
    return roll_out(rehearsal, store.baselines().current().number, store.rollouts(), author, progress);
}

RolloutReport go_on(Store& store, int number, Progress& progress) { return resume(store.rollouts(), number, progress); }

RolloutReport take_back(Store& store, int number, Progress& progress) {
    return roll_back(store.rollouts(), number, progress);
}

RolloutRecord rollout_of(Store& store, int number) {
    for (const RolloutRecord& r : store.rollouts().list())
        if (number == 0 || r.number == number) return r;
    throw input_error(
        number == 0 ? std::string("Nothing was rolled out from this store yet; there is nothing to take back.")
                    : fmt::format("There is no rollout {} in this store; 'store list rollouts' shows them.", number));
}

}  // namespace optrel
