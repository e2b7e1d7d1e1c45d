// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/queue/queue_result.h"

#include <fmt/format.h>

#include <algorithm>

#include "studio/queue/queue_kinds.h"

namespace optrel {

std::vector<std::string> result_in_words(const Store& store, const QueuedJob& job,
                                         const std::vector<QueuedPortion>& portions) {
    std::vector<std::string> lines;
    const bool any = std::any_of(portions.begin(), portions.end(),
                                 [](const QueuedPortion& p) { return p.state == PortionState::done; });
    if (any) queue_kind(job.kind).tell({store, job, portions}, lines);
    for (const QueuedPortion& p : portions) {
        if (p.state == PortionState::failed)
            lines.push_back(fmt::format("Portion {} failed: {}", p.position + 1, p.result));
        if (p.state == PortionState::waiting && !p.result.empty())
            lines.push_back(fmt::format("Portion {} waits: {}", p.position + 1, p.result));
    }
    constexpr std::size_t most = 500;
    if (lines.size() > most) {
        const std::size_t more = lines.size() - most;
        lines.resize(most);
        lines.push_back(fmt::format("And {} lines more.", more));
    }
    return lines;
}

}  // namespace optrel
