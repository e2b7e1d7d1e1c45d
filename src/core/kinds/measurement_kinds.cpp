// SPDX-License-Identifier: GPL-3.0-or-later
#include "kinds/measurement_kinds.h"

#include "optics/profile_kind.h"

namespace optrel {

const std::vector<const MeasurementKind*>& measurement_kinds() {
    static const std::vector<const MeasurementKind*> all{&lens_profile_kind()};
    return all;
}

const MeasurementKind* find_measurement_kind(const std::string& id) {
    for (const MeasurementKind* kind : measurement_kinds())
        if (kind->id == id) return kind;
    return nullptr;
}

}  // namespace optrel
