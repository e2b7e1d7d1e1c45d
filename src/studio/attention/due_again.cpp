// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/attention/due_again.h"

#include <fmt/format.h>

#include "base/spans.h"

namespace optrel {

std::vector<DueAgain> due_again(const MeasurementKind& kind, const std::vector<Measurement>& current,
                                const std::string& now) {
    std::vector<DueAgain> out;
    if (kind.due_after_days == 0) return out;
    for (const Measurement& m : current) {
        const std::optional<double> age = days_between(m.time, now);
        if (!age || *age <= kind.due_after_days) continue;
        out.push_back({&kind, m.id, m.subject.serial.empty() ? m.name : m.name + " " + m.subject.serial,
                       fmt::format("It was last measured on {}, more than {} days ago.", m.time.substr(0, 10),
                                   kind.due_after_days)});
    }
    return out;
}

}  // namespace optrel
