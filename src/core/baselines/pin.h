// SPDX-License-Identifier: GPL-3.0-or-later
// A pinned value, either constant or a ramp over ISO.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "baselines/field.h"
#include "measurement/reference.h"

namespace optrel {

/// A ramp has at least one knot. Numbers are interpolated linearly in log2(ISO) and are constant outside the knots;
/// choices, switches and references change at the knots.
struct Pin {
    std::vector<std::pair<double, Value>> knots;  ///< ascending ISO; a single knot is a constant
    /// Measurement from which the values were derived; empty: a person chose them.
    std::optional<MeasurementReference> measured = {};

    static Pin constant(Value value) { return {{{100.0, std::move(value)}}}; }
    bool is_ramp() const { return knots.size() > 1; }
    /// ISO 0 (not recorded) gives the value at the lowest knot.
    Value at(Field field, double iso) const;
    bool operator==(const Pin& other) const { return knots == other.knots && measured == other.measured; }
    bool operator!=(const Pin& other) const { return !(*this == other); }
};

using Pins = std::map<Field, Pin>;

/// Text for users: "100: 0, 800: 20" for a ramp; the value with its unit for a constant.
std::string describe(Field field, const Pin& pin);
/// Parses the texts of describe() and shorter forms: "25", "25 px", "100: 0, 800: 20". Throws Error(input).
Pin pin_from_text(Field field, const std::string& text);

}  // namespace optrel
