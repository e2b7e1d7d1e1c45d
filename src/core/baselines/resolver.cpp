#include "baselines/resolver.h"

#include <algorithm>
#include <tuple>

namespace optrel {

const ResolvedFrame& neutral_start() {
    static const ResolvedFrame start = [] {
        ResolvedFrame s;
        for (const FieldInfo& f : all_fields()) s.fields[static_cast<int>(f.field)].value = f.neutral;
        return s;
    }();
    return start;
}

Resolver::Resolver(std::vector<Tier> tiers, std::string (*canonical)(const std::string&)) : tiers_(std::move(tiers)) {
    std::sort(tiers_.begin(), tiers_.end(), [](const Tier& a, const Tier& b) { return std::tuple(a.rank(), a.id) < std::tuple(b.rank(), b.id); });
    for (const Tier& t : tiers_) {
        Compiled c{&t, t.lens_condition == LensCondition::model ? canonical(t.lens) : t.lens, {}};
        for (const auto& [field, pin] : t.pins) c.pins.emplace_back(static_cast<int>(field), &pin);
        if (t.scope == Scope::studio)
            studio_.push_back(std::move(c));
        else
            (t.scope == Scope::model ? by_model_ : by_body_)[t.target].push_back(std::move(c));
    }
}

template <class Visit>
void Resolver::visit_applying(const FrameFacts& facts, const Visit& visit) const {
    const auto visit_list = [&](const std::vector<Compiled>& list) {
        for (const Compiled& c : list) {
            const Tier& t = *c.tier;
            if (facts.raw ? !t.raw : !t.rendered) continue;
            if (t.lens_condition == LensCondition::model && (facts.lens.empty() || c.lens != facts.lens)) continue;
            if (t.lens_condition == LensCondition::copy && (facts.lens_copy.empty() || c.lens != facts.lens_copy)) continue;
            if (t.iso_span && !(facts.iso >= t.iso_span->first && facts.iso <= t.iso_span->second)) continue;
            visit(c);
        }
    };
    visit_list(studio_);
    if (const auto it = by_model_.find(facts.model); it != by_model_.end()) visit_list(it->second);
    if (facts.body_knowledge == BodyKnowledge::unknown) return;
    if (const auto it = by_body_.find(facts.body); it != by_body_.end()) visit_list(it->second);
}

void Resolver::resolve(const FrameFacts& facts, ResolvedFrame& out) const {
    const ResolvedFrame& start = neutral_start();
    std::array<std::pair<const Pin*, const Tier*>, field_count> winner{};
    visit_applying(facts, [&](const Compiled& c) {
        for (const auto& [field, pin] : c.pins) winner[field] = {pin, c.tier};
    });
    for (int f = 0; f < field_count; ++f) {
        ResolvedField& field = out.fields[f];
        field.tier = winner[f].second;
        if (!winner[f].first)
            field.value = start.fields[f].value;
        else if (winner[f].first->is_ramp())
            field.value = winner[f].first->at(static_cast<Field>(f), facts.iso);
        else
            field.value = winner[f].first->knots.front().second;
    }
}

std::vector<TraceStep> Resolver::trace(const FrameFacts& facts, Field field) const {
    std::vector<TraceStep> steps{{nullptr, neutral_start()[field].value, false, ""}};
    visit_applying(facts, [&](const Compiled& c) {
        for (const auto& [f, pin] : c.pins)
            if (f == static_cast<int>(field)) {
                TraceStep step{c.tier, pin->at(field, facts.iso), false, ""};
                if (c.tier->scope == Scope::body && facts.body_knowledge == BodyKnowledge::assumed)
                    step.remark = "the body is assumed: the only one of its model in the fleet";
                if (pin->is_ramp() && (facts.iso < pin->knots.front().first || facts.iso > pin->knots.back().first))
                    step.remark += step.remark.empty() ? "beyond the knots of its ramp" : "; beyond the knots of its ramp";
                steps.push_back(std::move(step));
            }
    });
    steps.back().won = true;
    return steps;
}

}  // namespace optrel
