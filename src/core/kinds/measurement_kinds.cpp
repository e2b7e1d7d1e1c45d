// SPDX-License-Identifier: GPL-3.0-or-later
#include "kinds/measurement_kinds.h"

#include "optics/profile_kind.h"
#include "patches/body_colours.h"
#include "sensor/defect_kind.h"
#include "sensor/fingerprint_kind.h"
#include "sensor/noise_kind.h"

namespace optrel {

const std::vector<const MeasurementKind*>& measurement_kinds() {
    static const std::vector<const MeasurementKind*> all{&lens_profile_kind(), &noise_kind(), &fingerprint_kind(),
                                                         &defect_kind(), &colour_kind()};
    return all;
}

// A fingerprint identifies a body, and defects are repaired: neither determines how frames should look.
bool pins_may_follow(const MeasurementKind& kind) { return &kind != &fingerprint_kind() && &kind != &defect_kind(); }

const MeasurementKind* find_measurement_kind(const std::string& id) {
    for (const MeasurementKind* kind : measurement_kinds())
        if (kind->id == id) return kind;
    return nullptr;
}

}  // namespace optrel
