#include "baselines/tier.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <tuple>

#include "base/error.h"

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

namespace {

bool can_hold_together(const Tier& a, const Tier& b) {
    if (a.scope != Scope::studio && a.target != b.target) return false;
    if (a.lens_condition != LensCondition::any && a.lens != b.lens) return false;
    if (a.iso_span && (a.iso_span->first > b.iso_span->second || b.iso_span->first > a.iso_span->second)) return false;
    return (a.raw && b.raw) || (a.rendered && b.rendered);
}

}  // namespace

std::string Conflict::sentence() const {
    return fmt::format("The tiers '{}' and '{}' both pin {} for the same frames and neither ranks higher; take the pin out of one of them.", tier_a, tier_b,
                       info(field).label);
}

std::vector<Conflict> find_conflicts(const std::vector<Tier>& tiers) {
    std::vector<Conflict> out;
    // Only tiers of the same rank and target can conflict, so they are compared within such groups.
    std::map<std::tuple<std::tuple<int, int, int>, std::string, std::string>, std::vector<const Tier*>> groups;
    for (const Tier& t : tiers) groups[{t.rank(), t.scope == Scope::studio ? "" : t.target, t.lens_condition == LensCondition::any ? "" : t.lens}].push_back(&t);
    for (const auto& [key, group] : groups)
        for (std::size_t i = 0; i < group.size(); ++i)
            for (std::size_t j = i + 1; j < group.size(); ++j) {
                if (!can_hold_together(*group[i], *group[j])) continue;
                for (const auto& [field, pin] : group[i]->pins)
                    if (group[j]->pins.count(field)) out.push_back({group[i]->name, group[j]->name, field});
            }
    return out;
}

std::string describe(Field field, const Pin& pin) {
    if (!pin.is_ramp()) return to_display(field, pin.knots.front().second);
    std::vector<std::string> parts;
    for (const auto& [iso, value] : pin.knots) parts.push_back(fmt::format("{:g}: {}", iso, to_display(field, value)));
    return fmt::format("{}", fmt::join(parts, ", "));
}

namespace {

std::string trimmed(const std::string& s) {
    const std::size_t first = s.find_first_not_of(" \t"), last = s.find_last_not_of(" \t");
    return first == std::string::npos ? "" : s.substr(first, last - first + 1);
}

Value value_without_unit(Field field, const std::string& text) {
    std::string t = trimmed(text);
    const std::string& unit = info(field).unit;
    if (!unit.empty() && t.size() > unit.size() && t.compare(t.size() - unit.size(), unit.size(), unit) == 0) t = trimmed(t.substr(0, t.size() - unit.size()));
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
        const std::string iso_text = trimmed(knot.substr(0, colon));
        double iso = 0;
        const auto parsed = std::from_chars(iso_text.data(), iso_text.data() + iso_text.size(), iso);
        if (colon == knot.size() || parsed.ec != std::errc() || parsed.ptr != iso_text.data() + iso_text.size() || !(iso > 0 && iso < 1e8))
            throw input_error(fmt::format("'{}' is no ramp; write knots as ISO: value, for instance 100: 0, 800: 20.", text));
        pin.knots.emplace_back(iso, value_without_unit(field, knot.substr(colon + 1)));
        at = end + 1;
    }
    std::sort(pin.knots.begin(), pin.knots.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    for (std::size_t i = 1; i < pin.knots.size(); ++i)
        if (pin.knots[i].first == pin.knots[i - 1].first) throw input_error(fmt::format("The ramp '{}' has two knots at ISO {:g}; give each ISO once.", text, pin.knots[i].first));
    return pin;
}

std::string describe_conditions(const Tier& t) {
    std::string out = t.scope == Scope::studio ? "studio" : t.scope == Scope::model ? "model " + t.target : "body " + t.target;
    if (t.lens_condition == LensCondition::model) out += ", lens " + t.lens;
    if (t.lens_condition == LensCondition::copy) out += ", lens copy " + t.lens;
    if (t.iso_span) out += fmt::format(", ISO {:g}-{:g}", t.iso_span->first, t.iso_span->second);
    if (t.rendered) out += t.raw ? ", raw and rendered" : ", rendered";
    return out;
}

std::vector<RevisionChange> difference(const Revision& before, const Revision& after) {
    std::vector<RevisionChange> out;
    const auto find = [](const Revision& r, const std::string& id) {
        const auto it = std::find_if(r.tiers.begin(), r.tiers.end(), [&](const Tier& t) { return t.id == id; });
        return it == r.tiers.end() ? nullptr : &*it;
    };
    const auto compare_pins = [&](const Tier& named, const std::map<Field, Pin>& a, const std::map<Field, Pin>& b) {
        for (const FieldInfo& f : all_fields()) {
            const auto x = a.find(f.field), y = b.find(f.field);
            const std::string was = x == a.end() ? "inherits" : describe(f.field, x->second), is = y == b.end() ? "inherits" : describe(f.field, y->second);
            if (was != is) out.push_back({named.name, f.label, was, is});
        }
    };
    for (const Tier& t : after.tiers) {
        const Tier* old = find(before, t.id);
        if (!old) {
            out.push_back({t.name, "", "no tier", describe_conditions(t)});
            compare_pins(t, {}, t.pins);
            continue;
        }
        if (describe_conditions(*old) != describe_conditions(t)) out.push_back({t.name, "", describe_conditions(*old), describe_conditions(t)});
        if (old->name != t.name) out.push_back({t.name, "Name", old->name, t.name});
        compare_pins(t, old->pins, t.pins);
    }
    for (const Tier& t : before.tiers)
        if (!find(after, t.id)) out.push_back({t.name, "", describe_conditions(t), "deleted"});
    return out;
}

}  // namespace optrel
