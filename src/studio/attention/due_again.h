// SPDX-License-Identifier: GPL-3.0-or-later
// Measurements that should be made again because of their age.
#pragma once

#include <string>
#include <vector>

#include "measurement/kind.h"

namespace optrel {

struct DueAgain {
    const MeasurementKind* kind = nullptr;
    std::string id, name;
    std::string sentence;
    bool operator==(const DueAgain&) const = default;
};

/// Finds the measurements that are older at `now` (ISO 8601, UTC) than their kind allows. A measurement that does not
/// say when it was made is never due.
std::vector<DueAgain> due_again(const MeasurementKind& kind, const std::vector<Measurement>& current,
                                const std::string& now);

}  // namespace optrel
