#include "baselines/tier.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <tuple>

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
