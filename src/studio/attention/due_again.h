// SPDX-License-Identifier: GPL-3.0-or-later
// Measurements that should be made again because of their age.
#pragma once

#include <string>
#include <vector>

#include "measurement/kind.h"
#include "store/store.h"

namespace optrel {

struct DueAgain {
    const MeasurementKind* kind = nullptr;
    std::string id, name;
    std::string sentence;
    bool operator==(const DueAgain&) const = default;
};

/// Those of the measurements that are older at `now` (ISO 8601, UTC) than their kind allows. Measurements without a
/// time are left out.
std::vector<DueAgain> due_again(const MeasurementKind& kind, const std::vector<Measurement>& current,
                                const std::string& now);

/// The same over all current measurements of the store.
std::vector<DueAgain> due_again(const Store& store);

}  // namespace optrel
