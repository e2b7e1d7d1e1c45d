// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/lint.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <set>

#include "base/words.h"
#include "baselines/inert_pins.h"

namespace optrel {

std::string to_string(LintRule rule) {
    static const char* names[] = {
        "look field pinned",           "pin without effect",    "noise treated twice", "body without serial number",
        "one profile, several lenses", "ramp too short",        "mixed conditions",    "matches no frame",
        "body without tier",           "pin that does nothing", "ramp of words",       "model of no frame"};
    return names[static_cast<int>(rule)];
}

namespace {

class Linter {
public:
    Linter(const Revision& revision, const std::vector<FactsGroup>& groups, const std::vector<FleetBody>& fleet)
        : resolver_(revision), groups_(groups), fleet_(fleet) {
        for (std::size_t g = 0; g < groups.size(); ++g)
            for (const Tier* t : resolver_.applying(groups[g].facts)) reached_[t].push_back(g);
    }

    std::vector<LintFinding> run() {
        for (const Tier& t : resolver_.tiers()) {
            frames_ = 0;
            for (const std::size_t g : reached_[&t]) frames_ += groups_[g].frames;
            looks(t);
            without_effect(t);
            noise_twice(t);
            serial_missing(t);
            several_lenses(t);
            ramps(t);
            conditions(t);
            inert(t);
            const bool known = model_known(t);
            if (!groups_.empty() && frames_ == 0 && known && !waits_for_frames(t))
                add(LintRule::no_frame, t, {}, "it has matched no frame so far", "delete the tier");
        }
        uncovered();
        return std::move(out_);
    }

private:
    void add(LintRule rule, const Tier& t, std::optional<Field> field, const std::string& why, const char* remedy,
             std::optional<int> frames = {}) {
        const std::string what = field ? fmt::format("'{}' pins {}: {}.", t.name, info(*field).label, why)
                                       : fmt::format("'{}': {}.", t.name, why);
        out_.push_back({rule, t.id, t.name, field, "", what, remedy, frames.value_or(frames_)});
    }

    void looks(const Tier& t) {
        for (const auto& [field, pin] : t.pins)
            if (info(field).nature == FieldNature::look)
                add(LintRule::look_pinned, t, field,
                    "it is a matter of taste, and all frames that are not hand-set get it", "take the pin out");
    }

    /// Compares what the tier's own pin says with what lies beneath it, for every group of frames that it reaches.
    void without_effect(const Tier& t) {
        if (t.pins.empty() || reached_[&t].empty()) return;
        for (const auto& [field, pin] : t.pins) {
            bool differs = false;
            for (const std::size_t g : reached_[&t]) {
                std::optional<Value> beneath;
                for (const TraceStep& step : resolver_.trace(groups_[g].facts, field)) {
                    if (step.tier == &t && !step.set) break;
                    beneath = step.value;
                }
                if (!beneath || *beneath != pin.at(field, groups_[g].facts.iso)) {
                    differs = true;
                    break;
                }
            }
            if (!differs)
                add(LintRule::pin_without_effect, t, field, "it says the same as what it overrides",
                    "take the pin out");
        }
    }

    void noise_twice(const Tier& t) {
        for (const Field field : {Field::luminance_noise, Field::colour_noise}) {
            const auto pin = t.pins.find(field);
            if (pin == t.pins.end() || std::all_of(pin->second.knots.begin(), pin->second.knots.end(),
                                                   [](const auto& k) { return k.second.number == 0; }))
                continue;
            int clash = 0;
            for (const std::size_t g : reached_[&t]) {
                const FrameFacts& facts = groups_[g].facts;
                if (resolver_.resolve(facts, Field::noise_elsewhere).value.text == "on" &&
                    resolver_.resolve(facts, field).tier == &t)
                    clash += groups_[g].frames;
            }
            // Without frames the tier's own word counts.
            const auto own = t.pins.find(Field::noise_elsewhere);
            const bool says_so = own != t.pins.end() && own->second.knots.front().second.text == "on";
            if (clash || says_so)
                add(LintRule::noise_twice, t, field,
                    "but noise is treated elsewhere for these frames, so it does nothing here", "take the pin out",
                    clash);
        }
    }

    const FleetBody* body(const std::string& id) const {
        const auto it = std::find_if(fleet_.begin(), fleet_.end(), [&](const FleetBody& b) { return b.id == id; });
        return it == fleet_.end() ? nullptr : &*it;
    }

    void serial_missing(const Tier& t) {
        if (t.scope != Scope::body) return;
        const FleetBody* b = body(t.target);
        if (b && !b->names_itself)
            add(LintRule::body_names_itself_not, t, {},
                fmt::format("the files of {} carry no serial number, so only claimed frames get it", b->label),
                "move its pins to the model's tier");
    }

    void several_lenses(const Tier& t) {
        const auto pin = t.pins.find(Field::lens_profile);
        if (pin == t.pins.end() || t.lens_condition != LensCondition::any) return;
        const std::string& said = pin->second.knots.front().second.text;
        if (said == "automatic" || said == "none") return;
        std::set<std::string> lenses;
        for (const std::size_t g : reached_[&t])
            if (!groups_[g].facts.lens.empty()) lenses.insert(groups_[g].facts.lens);
        if (lenses.size() > 1)
            add(LintRule::profile_for_several_lenses, t, Field::lens_profile,
                fmt::format("one profile for all, but its frames were taken with {} lenses", lenses.size()),
                "let it be automatic");
    }

    /// A pin of a field that does nothing for any frame that gets it. Without frames a studio tier speaks for itself.
    void inert(const Tier& t) {
        for (const auto& [field, pin] : t.pins) {
            std::string why;
            bool acts = false, seen = false;
            for (const std::size_t g : reached_[&t]) {
                ResolvedFrame fields;
                resolver_.resolve(groups_[g].facts, fields);
                if (fields[field].tier != &t) continue;  // another tier overrides it
                seen = true;
                why = why_inert(field, fields);
                if (acts = why.empty(); acts) break;
            }
            if (groups_.empty() && t.scope == Scope::studio) {
                ResolvedFrame fields = neutral_start();
                for (const auto& [own, said] : t.pins) fields.fields[static_cast<int>(own)].value = said.at(own, 100);
                seen = true;
                why = why_inert(field, fields);
            }
            if (seen && !why.empty())
                add(LintRule::inert_pin, t, field, "it does nothing, since " + why + " for its frames",
                    "take the pin out");
        }
    }

    /// A tier for a body, or for the bodies of a model, that has taken no frame at all yet: nothing can be said of it.
    bool waits_for_frames(const Tier& t) const {
        if (t.scope == Scope::studio) return false;
        const bool model = t.scope == Scope::model;
        const bool there = std::any_of(fleet_.begin(), fleet_.end(),
                                       [&](const FleetBody& b) { return (model ? b.model : b.id) == t.target; });
        return there && std::none_of(groups_.begin(), groups_.end(), [&](const FactsGroup& g) {
                   return (model ? g.facts.model : g.facts.body) == t.target;
               });
    }

    /// False, with a finding, where the tier's model is nobody's: it is mistyped, or sold.
    bool model_known(const Tier& t) {
        if (t.scope != Scope::model || groups_.empty()) return true;
        std::vector<std::string> models;
        for (const FactsGroup& g : groups_) models.push_back(g.facts.model);
        for (const FleetBody& b : fleet_) models.push_back(b.model);
        if (std::find(models.begin(), models.end(), t.target) != models.end()) return true;
        std::sort(models.begin(), models.end());
        models.erase(std::unique(models.begin(), models.end()), models.end());
        add(LintRule::unknown_model, t, {},
            fmt::format("no frame and no body of the register is a '{}'{}", t.target, nearest_clause(t.target, models)),
            "delete the tier");
        return false;
    }

    void ramps(const Tier& t) {
        for (const auto& [field, pin] : t.pins) {
            if (!pin.is_ramp()) continue;
            if (info(field).type != FieldType::number) {
                add(LintRule::ramp_of_words, t, field,
                    "its values are words, so that it steps at its knots and is not linear between them", "");
                continue;
            }
            int beyond = 0;
            double low = pin.knots.front().first, high = pin.knots.back().first;
            for (const std::size_t g : reached_[&t]) {
                const double iso = groups_[g].facts.iso;
                if (iso <= 0 || (iso >= pin.knots.front().first && iso <= pin.knots.back().first)) continue;
                beyond += groups_[g].frames;
                low = std::min(low, iso);
                high = std::max(high, iso);
            }
            if (beyond)
                add(LintRule::ramp_too_short, t, field,
                    fmt::format("its ramp runs from ISO {:g} to {:g}, its frames from ISO {:g} to {:g}; beyond the "
                                "ends the value stays",
                                pin.knots.front().first, pin.knots.back().first, low, high),
                    "add knots at the ends with the value that holds there", beyond);
        }
    }

    void conditions(const Tier& t) {
        if (t.scope != Scope::model) return;
        std::set<std::string> conditions;
        std::string other;
        for (const FleetBody& b : fleet_)
            if (b.model == t.target) {
                conditions.insert(b.condition);
                if (!b.condition.empty()) other = b.label + " is " + b.condition;
            }
        if (conditions.size() > 1)
            add(LintRule::mixed_conditions, t, {}, fmt::format("it covers bodies of different condition: {}", other),
                "");
    }

    void uncovered() {
        std::set<std::string> models, bodies;
        for (const Tier& t : resolver_.tiers()) (t.scope == Scope::model ? models : bodies).insert(t.target);
        std::unordered_map<std::string, int> frames;
        for (const FactsGroup& g : groups_) frames[g.facts.body] += g.frames;
        for (const FleetBody& b : fleet_)
            if (!models.count(b.model) && !bodies.count(b.id))
                out_.push_back({LintRule::body_uncovered,
                                "",
                                "",
                                {},
                                b.id,
                                fmt::format("No tier above studio covers {} ({}).", b.label, b.model),
                                "add a tier for its model",
                                frames[b.id]});
    }

    const Resolver resolver_;
    const std::vector<FactsGroup>& groups_;
    const std::vector<FleetBody>& fleet_;
    std::unordered_map<const Tier*, std::vector<std::size_t>> reached_;
    std::vector<LintFinding> out_;
    int frames_ = 0;
};

/// The tier for a model or a body with the other conditions of `like`, made when there is none.
Tier& tier_like(Revision& r, Scope scope, const std::string& target, const Tier& like = {}) {
    Tier wanted = like;
    wanted.scope = scope;
    wanted.target = target;
    wanted.name = describe_conditions(wanted);
    for (Tier& t : r.tiers)
        if (describe_conditions(t) == wanted.name) return t;
    wanted.pins.clear();
    wanted.sets.clear();
    wanted.id = fmt::format("lint-{:x}", std::hash<std::string>()(wanted.name));
    r.tiers.push_back(wanted);
    return r.tiers.back();
}

}  // namespace

std::vector<LintFinding> lint(const Revision& revision, const std::vector<FactsGroup>& groups,
                              const std::vector<FleetBody>& fleet) {
    return Linter(revision, groups, fleet).run();
}

namespace {

/// The plain remedy, whatever it reaches.
Revision with_remedy(const Revision& revision, const LintFinding& finding, const std::vector<FactsGroup>& groups,
                     const std::vector<FleetBody>& fleet) {
    Revision r = revision;
    Tier* t = r.tier(finding.tier_id);
    switch (finding.rule) {
        case LintRule::look_pinned:
        case LintRule::pin_without_effect:
        case LintRule::noise_twice:
        case LintRule::inert_pin:
            if (t && finding.field) t->pins.erase(*finding.field);
            break;
        case LintRule::body_names_itself_not: {
            if (!t) break;
            const auto body =
                std::find_if(fleet.begin(), fleet.end(), [&](const FleetBody& b) { return b.id == t->target; });
            if (body == fleet.end()) break;
            const Tier moved = *t;
            std::erase_if(r.tiers, [&](const Tier& other) { return other.id == moved.id; });
            Tier& to = tier_like(r, Scope::model, body->model, moved);
            for (const auto& [field, pin] : moved.pins) to.pins[field] = pin;
            to.sets.insert(to.sets.end(), moved.sets.begin(), moved.sets.end());
            break;
        }
        case LintRule::profile_for_several_lenses:
            if (!t) break;
            // Where nothing else pins one, automatic is what lies beneath, and a pin would do nothing.
            if (std::any_of(r.tiers.begin(), r.tiers.end(),
                            [&](const Tier& o) { return o.id != t->id && o.pins.count(Field::lens_profile) > 0; }))
                t->pins[Field::lens_profile] = Pin::constant({0, "automatic"});
            else
                t->pins.erase(Field::lens_profile);
            break;
        case LintRule::ramp_too_short: {
            if (!t || !finding.field || !t->pins.count(*finding.field)) break;
            Pin& pin = t->pins[*finding.field];
            const std::string lens = canonical_lens_of(*t);
            double low = pin.knots.front().first, high = pin.knots.back().first;
            for (const FactsGroup& g : groups)
                if (g.facts.iso > 0 && tier_applies(*t, lens, g.facts)) {
                    low = std::min(low, g.facts.iso);
                    high = std::max(high, g.facts.iso);
                }
            if (low < pin.knots.front().first) pin.knots.insert(pin.knots.begin(), {low, pin.knots.front().second});
            if (high > pin.knots.back().first) pin.knots.emplace_back(high, Value(pin.knots.back().second));
            break;
        }
        case LintRule::no_frame:
        case LintRule::unknown_model:
            std::erase_if(r.tiers, [&](const Tier& other) { return other.id == finding.tier_id; });
            break;
        case LintRule::body_uncovered:
            for (const FleetBody& b : fleet)
                if (b.id == finding.body_id) tier_like(r, Scope::model, b.model);
            break;
        case LintRule::mixed_conditions:
        case LintRule::ramp_of_words: break;
    }
    return r;
}

/// Whether a group of frames is among those that a finding is about.
bool concerns(const LintFinding& finding, const Resolver& resolver, const FactsGroup& group) {
    const Revision& r = resolver.revision();
    const Tier* t = r.tier(finding.tier_id);
    if (!t || !tier_applies(*t, canonical_lens_of(*t), group.facts)) return false;
    if (finding.rule != LintRule::noise_twice) return true;
    return resolver.resolve(group.facts, Field::noise_elsewhere).value.text == "on" &&
           resolver.resolve(group.facts, *finding.field).tier == t;
}

/// Noise reduction off for each body whose noise is treated elsewhere, under the conditions of the tier that reduces
/// it.
Revision with_noise_off(const Revision& revision, const LintFinding& finding, const std::vector<FactsGroup>& groups) {
    const Resolver resolver(revision);
    Revision r = revision;
    const Tier* from = revision.tier(finding.tier_id);
    std::set<std::string> bodies;
    for (const FactsGroup& g : groups)
        if (concerns(finding, resolver, g) && g.facts.body_knowledge == BodyKnowledge::known)
            bodies.insert(g.facts.body);
    for (const std::string& body : bodies)
        tier_like(r, Scope::body, body, *from).pins[*finding.field] = Pin::constant({0, ""});
    return r;
}

/// Notes in `out` what resolves otherwise; false when a frame does that the finding is not about.
bool stays_within(const LintFinding& finding, const Revision& before, const Revision& after,
                  const std::vector<FactsGroup>& groups, LintFix& out) {
    const Resolver was(before), is(after);
    std::set<Field> fields;
    out.frames = 0;
    for (const FactsGroup& g : groups) {
        ResolvedFrame a, b;
        was.resolve(g.facts, a);
        is.resolve(g.facts, b);
        bool differs = false;
        for (int f = 0; f < field_count; ++f)
            if (a.fields[f].value != b.fields[f].value) {
                fields.insert(static_cast<Field>(f));
                differs = true;
            }
        if (!differs) continue;
        if (!concerns(finding, was, g)) return false;
        out.frames += g.frames;
    }
    out.fields.clear();
    for (const Field f : fields) out.fields.push_back(info(f).label);
    return true;
}

}  // namespace

std::string LintFix::sentence() const {
    if (!refused.empty()) return refused;
    if (frames == 0) return "changes no frame";
    return fmt::format("changes {} in {} frame{}", fmt::join(fields, ", "), frames, frames == 1 ? "" : "s");
}

LintFix mend(const Revision& revision, const LintFinding& finding, const std::vector<FactsGroup>& groups,
             const std::vector<FleetBody>& fleet) {
    LintFix out;
    if (finding.remedy.empty()) {
        out.after = revision;
        out.refused = "it has no remedy that a program may choose; decide by hand";
        return out;
    }
    const std::size_t found = lint(revision, groups, fleet).size();
    const auto settles = [&] { return lint(out.after, groups, fleet).size() < found; };
    out.refused = "its remedy would change frames that the finding is not about; decide by hand";
    out.after = with_remedy(revision, finding, groups, fleet);
    if (stays_within(finding, revision, out.after, groups, out)) {
        out.refused = settles() ? "" : "its remedy would only bring another finding; decide by hand";
        if (out.done()) return out;
    } else if (finding.rule == LintRule::noise_twice) {
        out.after = with_noise_off(revision, finding, groups);
        if (stays_within(finding, revision, out.after, groups, out) && out.frames > 0 && settles()) {
            out.refused.clear();
            return out;
        }
    }
    out.after = revision;
    out.frames = 0;
    out.fields.clear();
    return out;
}

}  // namespace optrel
