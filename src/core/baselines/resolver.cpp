// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/resolver.h"

#include <fmt/format.h>

#include <algorithm>
#include <tuple>

#include "optics/lens_text.h"
#include "optics/profile_versions.h"

namespace optrel {

const ResolvedFrame& neutral_start() {
    static const ResolvedFrame start = [] {
        ResolvedFrame s;
        for (const FieldInfo& f : all_fields()) s.fields[static_cast<int>(f.field)].value = f.neutral;
        return s;
    }();
    return start;
}

std::string canonical_lens_of(const Tier& t) {
    return t.lens_condition == LensCondition::model ? canonical_lens_text(t.lens) : t.lens;
}

namespace {

/// The conditions beside scope and target.
bool rest_applies(const Tier& t, const std::string& canonical_lens, const FrameFacts& facts) {
    if (facts.raw ? !t.raw : !t.rendered) return false;
    if (t.lens_condition == LensCondition::model && (facts.lens.empty() || canonical_lens != facts.lens)) return false;
    if (t.lens_condition == LensCondition::copy && (facts.lens_copy.empty() || canonical_lens != facts.lens_copy))
        return false;
    return !t.iso_span || (facts.iso >= t.iso_span->first && facts.iso <= t.iso_span->second);
}

}  // namespace

bool tier_applies(const Tier& t, const std::string& canonical_lens, const FrameFacts& facts) {
    if (t.scope == Scope::model && t.target != facts.model) return false;
    if (t.scope == Scope::body && (facts.body_knowledge == BodyKnowledge::unknown || t.target != facts.body))
        return false;
    return rest_applies(t, canonical_lens, facts);
}

Resolver::Resolver(Revision revision) : revision_(std::move(revision)) {
    std::sort(revision_.tiers.begin(), revision_.tiers.end(),
              [](const Tier& a, const Tier& b) { return std::tuple(a.rank(), a.id) < std::tuple(b.rank(), b.id); });
    for (const Tier& t : revision_.tiers) {
        Compiled c{&t, canonical_lens_of(t), sayings(revision_, t.sets, t.pins)};
        if (t.scope == Scope::studio)
            studio_.push_back(std::move(c));
        else
            (t.scope == Scope::model ? by_model_ : by_body_)[t.target].push_back(std::move(c));
    }
}

template <class Visit>
void Resolver::visit_applying(const FrameFacts& facts, const Visit& visit) const {
    const auto visit_list = [&](const std::vector<Compiled>& list) {
        for (const Compiled& c : list)
            if (rest_applies(*c.tier, c.lens, facts)) visit(c);
    };
    visit_list(studio_);
    if (const auto it = by_model_.find(facts.model); it != by_model_.end()) visit_list(it->second);
    if (facts.body_knowledge == BodyKnowledge::unknown) return;
    if (const auto it = by_body_.find(facts.body); it != by_body_.end()) visit_list(it->second);
}

/// What a start builds on: a named set stands on the start that it pins itself. The depth only guards against circles
/// that were never checked.
void Resolver::add_start(const Value& value, const FrameFacts& facts, int depth, Start& out) const {
    const std::string name = set_named_by(value);
    if (name.empty()) {
        out.recorded = value.text == "as recorded" && facts.raw;
        return;
    }
    const std::vector<FieldStatement> said = sayings(revision_, {name}, {});
    const Pin* beneath = nullptr;
    for (const FieldStatement& s : said)
        if (s.field == Field::start) beneath = s.pin;
    if (beneath && depth < 20) add_start(beneath->at(Field::start, facts.iso), facts, depth + 1, out);
    out.sayings.insert(out.sayings.end(), said.begin(), said.end());
}

Resolver::Start Resolver::start_of(const Value& value, const FrameFacts& facts) const {
    Start out;
    out.value = value;
    if (value.text != "neutral") add_start(value, facts, 0, out);
    return out;
}

void Resolver::resolve(const FrameFacts& facts, ResolvedFrame& out) const {
    std::array<const FieldStatement*, field_count> winner{};
    std::array<const Tier*, field_count> tier{};
    visit_applying(facts, [&](const Compiled& c) {
        for (const FieldStatement& s : c.sayings) {
            winner[static_cast<int>(s.field)] = &s;
            tier[static_cast<int>(s.field)] = c.tier;
        }
    });
    const auto said = [&](const FieldStatement& s) {
        return s.pin->is_ramp() ? s.pin->at(s.field, facts.iso) : s.pin->knots.front().second;
    };
    const FieldStatement* start_pin = winner[static_cast<int>(Field::start)];
    const bool plain =
        !start_pin || (!start_pin->pin->is_ramp() && start_pin->pin->knots.front().second.text == "neutral");
    const Start start = plain ? Start{} : start_of(said(*start_pin), facts);
    const ResolvedFrame& neutral = neutral_start();
    for (int f = 0; f < field_count; ++f) {
        ResolvedField& field = out.fields[f];
        field.tier = tier[f];
        field.set = winner[f] ? winner[f]->set : nullptr;
        field.value = winner[f] ? said(*winner[f]) : neutral.fields[f].value;
    }
    const auto fix = [&] {
        if (revision_.profiles_as_of.empty()) return;
        std::string& profile = out.fields[static_cast<int>(Field::lens_profile)].value.text;
        profile = fixed_at(profile, revision_.profiles_as_of);
    };
    if (plain) return fix();
    const auto put = [&](Field f, const Value& value, const PinSet* set) {
        ResolvedField& field = out.fields[static_cast<int>(f)];
        if (field.tier || f == Field::start) return;
        field.value = value;
        field.set = set;
    };
    if (start.recorded) {
        for (const auto& [f, value] : values_of(facts.recorded)) put(f, value, nullptr);
        if (const auto adds = revision_.recorded_adds.find(facts.model); adds != revision_.recorded_adds.end())
            for (const auto& [f, pin] : adds->second) put(f, pin.at(f, facts.iso), nullptr);
    }
    for (const FieldStatement& s : start.sayings) put(s.field, said(s), s.set);
    fix();
}

ResolvedField Resolver::resolve(const FrameFacts& facts, Field field) const {
    if (field == Field::lens_profile && !revision_.profiles_as_of.empty()) {
        ResolvedFrame all;
        resolve(facts, all);
        return all[field];
    }
    const FieldStatement* winner = nullptr;
    const FieldStatement* start = nullptr;
    const Tier* tier = nullptr;
    visit_applying(facts, [&](const Compiled& c) {
        for (const FieldStatement& s : c.sayings) {
            if (s.field == field) {
                winner = &s;
                tier = c.tier;
            }
            if (s.field == Field::start) start = &s;
        }
    });
    if (winner) return {winner->pin->at(field, facts.iso), tier, winner->set};
    if (!start || start->pin->at(Field::start, facts.iso).text == "neutral")
        return {neutral_start()[field].value, nullptr, nullptr};
    ResolvedFrame all;
    resolve(facts, all);
    return all[field];
}

namespace {

std::string taken_in_from(const std::string& origin) { return origin.empty() ? "" : "taken in from " + origin; }

}  // namespace

namespace {

/// What a trace says about the measurement behind a pin.
std::string measured_remark(const MeasurementReference& from, const FrameFacts& facts) {
    const std::string out = fmt::format("derived from measurement {} version {}", from.id, from.version);
    for (const MeasurementReference& now : facts.measured)
        if (now.id == from.id)
            return now.version == from.version ? out + ", the current one of this frame"
                                               : fmt::format("{}; version {} is current", out, now.version);
    return out;
}

}  // namespace

std::vector<TraceStep> Resolver::trace(const FrameFacts& facts, Field field) const {
    const ResolvedField resolved_start = resolve(facts, Field::start);
    std::vector<TraceStep> steps{{nullptr, nullptr, "start: neutral", neutral_start()[field].value, false, ""}};
    if (field != Field::start) {
        const Start start = start_of(resolved_start.value, facts);
        if (start.recorded) {
            const auto add = [&](const Value& value, const char* remark) {
                steps.push_back({nullptr, nullptr, "start: as recorded", value, false, remark});
            };
            for (const auto& [f, value] : values_of(facts.recorded))
                if (f == field) add(value, "the camera wrote it");
            if (const auto adds = revision_.recorded_adds.find(facts.model); adds != revision_.recorded_adds.end())
                if (const auto pin = adds->second.find(field); pin != adds->second.end())
                    add(pin->second.at(field, facts.iso), "the register adds it for this model");
        }
        for (const FieldStatement& s : start.sayings)
            if (s.field == field)
                steps.push_back({nullptr, s.set, "start: set " + s.set->name, s.pin->at(field, facts.iso), false,
                                 taken_in_from(s.set->origin)});
    }
    visit_applying(facts, [&](const Compiled& c) {
        for (const FieldStatement& s : c.sayings) {
            if (s.field != field) continue;
            TraceStep step{c.tier, s.set, c.tier->name, s.pin->at(field, facts.iso), false, ""};
            const auto remark = [&](const std::string& text) {
                step.remark += (step.remark.empty() ? "" : "; ") + text;
            };
            if (s.set) remark("by its set " + s.set->name);
            if (s.pin->measured) remark(measured_remark(*s.pin->measured, facts));
            if (const std::string& origin = s.set ? s.set->origin : c.tier->origin; !origin.empty())
                remark(taken_in_from(origin));
            if (c.tier->scope == Scope::body && facts.body_knowledge == BodyKnowledge::assumed)
                remark("the body is assumed: the only one of its model in the fleet");
            if (s.pin->is_ramp() && (facts.iso < s.pin->knots.front().first || facts.iso > s.pin->knots.back().first))
                remark("beyond the knots of its ramp");
            steps.push_back(std::move(step));
        }
    });
    steps.back().won = true;
    return steps;
}

std::vector<const Tier*> Resolver::applying(const FrameFacts& facts) const {
    std::vector<const Tier*> out;
    visit_applying(facts, [&](const Compiled& c) { out.push_back(c.tier); });
    return out;
}

}  // namespace optrel
