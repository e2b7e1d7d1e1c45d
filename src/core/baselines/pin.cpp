// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/pin.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/numbers.h"
#include "base/words.h"

namespace optrel {

Value Pin::at(Field field, double iso) const {
    if (iso <= knots.front().first || knots.size() == 1) return knots.front().second;
    if (iso >= knots.back().first) return knots.back().second;
    std::size_t i = 1;
    while (knots[i].first <= iso) ++i;
    const auto& [low_iso, low] = knots[i - 1];
    const auto& [high_iso, high] = knots[i];
    if (info(field).type != FieldType::number) return low;
    const double t = std::log2(iso / low_iso) / std::log2(high_iso / low_iso);
    return {low.number + t * (high.number - low.number), ""};
}

std::string describe(Field field, const Pin& pin) {
    if (!pin.is_ramp()) return to_display(field, pin.knots.front().second);
    std::vector<std::string> parts;
    for (const auto& [iso, value] : pin.knots) parts.push_back(fmt::format("{:g}: {}", iso, to_display(field, value)));
    return fmt::format("{}", fmt::join(parts, ", "));
}

namespace {

Value value_without_unit(Field field, const std::string& text) {
    std::string t = trimmed(text);
    const std::string& unit = info(field).unit;
    if (!unit.empty() && t.size() > unit.size() && t.compare(t.size() - unit.size(), unit.size(), unit) == 0)
        t = trimmed(t.substr(0, t.size() - unit.size()));
    return value_from_text(field, t);
}

}  // namespace

Pin pin_from_text(Field field, const std::string& text) {
    if (text.find(':') == std::string::npos) return Pin::constant(value_without_unit(field, text));
    Pin pin;
    std::size_t at = 0;
    while (at <= text.size()) {
        const std::size_t end = std::min(text.find(',', at), text.size());
        const std::string knot = text.substr(at, end - at);
        const std::size_t colon = std::min(knot.find(':'), knot.size());
        const double iso = parse_number(std::string_view(knot).substr(0, colon)).value_or(0);
        if (colon == knot.size() || !(iso > 0 && iso < 1e8))
            throw input_error(
                fmt::format("'{}' is no ramp; write knots as ISO: value, for instance 100: 0, 800: 20.", text));
        pin.knots.emplace_back(iso, value_without_unit(field, knot.substr(colon + 1)));
        at = end + 1;
    }
    std::sort(pin.knots.begin(), pin.knots.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    for (std::size_t i = 1; i < pin.knots.size(); ++i)
        if (pin.knots[i].first == pin.knots[i - 1].first)
            throw input_error(
                fmt::format("The ramp '{}' has two knots at ISO {:g}; give each ISO once.", text, pin.knots[i].first));
    return pin;
}

}  // namespace optrel
