// SPDX-License-Identifier: GPL-3.0-or-later
// A pinned value, constant or varying with ISO, and how people write it.
#pragma once

#include <map>
#include <string>
#include <utility>
#include <vector>

#include "baselines/field.h"

namespace optrel {

/// A ramp has at least one knot; between knots a number is linear in log2(ISO), beyond the ends constant; a choice, a
/// flag or a reference steps at its knots.
struct Pin {
    std::vector<std::pair<double, Value>> knots;  ///< ascending ISO; a single knot is a constant

    static Pin constant(Value value) { return {{{100.0, std::move(value)}}}; }
    bool is_ramp() const { return knots.size() > 1; }
    /// ISO 0 (not recorded) counts as the lowest.
    Value at(Field field, double iso) const;
    bool operator==(const Pin& other) const { return knots == other.knots; }
    bool operator!=(const Pin& other) const { return !(*this == other); }
};

using Pins = std::map<Field, Pin>;

/// "100: 0, 800: 20" for a ramp, the value with its unit for a constant.
std::string describe(Field field, const Pin& pin);
/// What describe() writes, and shorter: "25", "25 px", "100: 0, 800: 20". Throws Error(input) with one sentence.
Pin pin_from_text(Field field, const std::string& text);

}  // namespace optrel
