// SPDX-License-Identifier: GPL-3.0-or-later
// Going on with a rollout.
#include <fmt/format.h>

#include "base/json_text.h"
#include "base/words.h"
#include "studio/queue/every_kind.h"
#include "studio/queue/portion_sums.h"
#include "studio/rollout/rolling.h"

namespace optrel {
namespace {

using nlohmann::json;

PortionResult do_rollout(const Work& work) {
    auto& [store, portion, what, progress] = work;
    RolloutReport report;
    try {
        report = go_on(store, what.at("number"), true, progress);
    } catch (const FramesInUse& busy) {
        throw WorkDeferred(busy.what(), false);
    }
    if (report.lost) throw WorkDeferred("Another station has its frames by now.", false);
    if (const auto failed = report.failed(); !failed.empty()) throw WorkDeferred(failed.front().sentence());
    json kept = json::array();
    for (const UnwrittenSidecar& u : report.kept()) kept.push_back(u.sentence());
    return {json_text({{"written", report.written}, {"kept", kept}})};
}

void tell_rollout(const WorkResults& results, std::vector<std::string>& lines) {
    const std::vector<json> done = results.done();
    lines.push_back(fmt::format("{} written.", counted(sum(done, "written"), "sidecar", "sidecars")));
    sentences(done, "kept", lines);
}

}  // namespace

const QueueKind& rollout_work() {
    static const QueueKind kind("rollout", do_rollout, tell_rollout);
    return kind;
}

}  // namespace optrel
