// SPDX-License-Identifier: GPL-3.0-or-later
// A reference to a published version of a measurement, as pins and traces contain it.
#pragma once

#include <string>

namespace optrel {

struct MeasurementReference {
    std::string id;
    int version = 0;
    bool operator==(const MeasurementReference&) const = default;
};

/// "ID@VERSION".
std::string to_string(const MeasurementReference& reference);
/// Inverse of to_string(). Throws Error(input) for another text.
MeasurementReference measurement_reference(const std::string& text);

}  // namespace optrel
