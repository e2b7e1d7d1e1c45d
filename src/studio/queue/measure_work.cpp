// SPDX-License-Identifier: GPL-3.0-or-later
// Measuring one frame of a run.
#include <fmt/format.h>

#include "base/json_text.h"
#include "base/words.h"
#include "calibration/run.h"
#include "studio/queue/every_kind.h"
#include "studio/queue/portion_paths.h"
#include "studio/queue/portion_sums.h"

namespace optrel {
namespace {

using nlohmann::json;

PortionResult do_measure(const Work& work) {
    auto& [store, portion, what, progress] = work;
    const int run = what.at("run"), position = what.at("position");
    const RunFrame before = store.runs().frame(run, position);
    if (before.settled())
        return {json_text({{"frame", printable(before.path.filename().string())}, {"done", "before"}})};
    require_here(before.path);
    RunFrame frame =
        measure_frame(before.path, MeasureAs::automatic, ChartSpec::parse(store.runs().chart_of(run)), progress);
    return {json_text({{"frame", printable(frame.path.filename().string())}, {"problem", frame.problem}}),
            [run, frame](Store& into) { into.runs().put_measurement(run, frame); }};
}

void tell_measure(const WorkResults& results, std::vector<std::string>& lines) {
    const std::vector<json> done = results.done();
    lines.push_back(fmt::format("{} measured.", counted(static_cast<long long>(done.size()), "frame", "frames")));
    for (const json& one : done)
        if (const std::string problem = one.value("problem", ""); !problem.empty()) lines.push_back(problem);
}

}  // namespace

const QueueKind& measure_work() {
    static const QueueKind kind("measure", do_measure, tell_measure);
    return kind;
}

}  // namespace optrel
