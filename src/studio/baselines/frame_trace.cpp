// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/baselines/frame_trace.h"

#include <fmt/format.h>

namespace optrel {

std::shared_ptr<const Resolver> resolver_of(const Sheet& sheet, const std::shared_ptr<const Resolver>& current,
                                            const std::function<std::optional<Revision>(int)>& revision) {
    if (sheet.revision == 0 || sheet.revision == current->revision().number) return current;
    std::optional<Revision> older = revision(sheet.revision);
    return older ? std::make_shared<const Resolver>(std::move(*older)) : current;
}

std::vector<TraceLine> frame_trace(const Sheet& sheet, const FrameFacts& facts, Field field, const Resolver& resolver) {
    if (sheet.exempt) return {{"exempt: no layer", info(field).neutral, ""}};
    const bool nothing_rolled_out = sheet.state() != FrameState::untouched && sheet.revision == 0;
    std::vector<TraceLine> out;
    for (const TraceStep& step : resolver.trace(facts, field)) {
        if (step.tier && nothing_rolled_out) continue;
        const std::string revision = step.tier ? fmt::format(", revision {}", resolver.revision().number) : "";
        out.push_back({step.source + revision, step.value, step.remark});
    }
    if (const auto it = sheet.baseline.find(field);
        sheet.revision > 0 && it != sheet.baseline.end() && it->second != out.back().value)
        out.push_back({"as written by the rollout", it->second,
                       "the body or the lens of the frame was settled since; rehearse again"});
    if (const auto it = sheet.set.find(field); it != sheet.set.end()) out.push_back({"set on top", it->second, ""});
    if (const auto it = sheet.hand.find(field); it != sheet.hand.end()) out.push_back({"by hand", it->second, ""});
    return out;
}

}  // namespace optrel
