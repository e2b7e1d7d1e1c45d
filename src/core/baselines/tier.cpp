// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/tier.h"

#include <fmt/format.h>

#include <algorithm>
#include <functional>
#include <map>
#include <set>

#include "base/choose.h"
#include "base/error.h"
#include "optics/lens_text.h"

namespace optrel {

const PinSet* Revision::set(const std::string& name) const {
    const auto it = std::find_if(sets.begin(), sets.end(), [&](const PinSet& s) { return s.name == name; });
    return it == sets.end() ? nullptr : &*it;
}

const Tier* Revision::tier(const std::string& id) const {
    const auto it = std::find_if(tiers.begin(), tiers.end(), [&](const Tier& t) { return t.id == id; });
    return it == tiers.end() ? nullptr : &*it;
}

namespace {

void add_pins(const Pins& pins, const PinSet* set, std::vector<FieldStatement>& out) {
    for (const auto& [field, pin] : pins) out.push_back({field, &pin, set});
}

void add_set(const Revision& r, const std::string& name, std::vector<const PinSet*>& path,
             std::vector<FieldStatement>& out) {
    const PinSet* set = r.set(name);
    if (!set || std::find(path.begin(), path.end(), set) != path.end()) return;
    path.push_back(set);
    for (const std::string& inner : set->sets) add_set(r, inner, path, out);
    add_pins(set->pins, set, out);
    path.pop_back();
}

}  // namespace

std::vector<FieldStatement> sayings(const Revision& revision, const std::vector<std::string>& sets, const Pins& own) {
    std::vector<FieldStatement> out;
    std::vector<const PinSet*> path;
    for (const std::string& name : sets) add_set(revision, name, path, out);
    add_pins(own, nullptr, out);
    return out;
}

namespace {

/// The sets that a list of sets and pins leads to: those it builds on, and those that it starts from.
std::vector<std::string> leads_to(const std::vector<std::string>& sets, const Pins& pins) {
    std::vector<std::string> out = sets;
    if (const auto start = pins.find(Field::start); start != pins.end())
        for (const auto& [iso, value] : start->second.knots)
            if (const std::string name = set_named_by(value); !name.empty()) out.push_back(name);
    return out;
}

}  // namespace

void check_sets(const Revision& r) {
    std::vector<std::string> path;
    std::set<std::string> sound;
    const std::function<void(const std::string&, const std::string&)> visit = [&](const std::string& name,
                                                                                  const std::string& from) {
        const PinSet* set = r.set(name);
        if (!set)
            throw input_error(fmt::format(
                "{} names the set '{}', which is not there; add that set or take the name out.", from, name));
        if (sound.count(name)) return;
        if (const auto at = std::find(path.begin(), path.end(), name); at != path.end())
            throw input_error(
                fmt::format("The set '{}' comes round to itself ({} → {}); take one of them out of the circle.", name,
                            fmt::join(at, path.end(), " → "), name));
        path.push_back(name);
        for (const std::string& next : leads_to(set->sets, set->pins)) visit(next, fmt::format("The set '{}'", name));
        path.pop_back();
        sound.insert(name);
    };
    for (const PinSet& s : r.sets) visit(s.name, "The baseline");
    for (const Tier& t : r.tiers)
        for (const std::string& name : leads_to(t.sets, t.pins)) visit(name, fmt::format("The tier '{}'", t.name));
}

void check_set_name(const std::string& name) {
    if (name.empty() || name.size() > 60 || name.front() == ' ' || name.back() == ' ' ||
        name.find_first_of(":,\n\t") != std::string::npos) {
        std::string shown = name.substr(0, 80);
        std::replace_if(
            shown.begin(), shown.end(), [](unsigned char c) { return c < ' '; }, '?');
        throw input_error(
            fmt::format("'{}' cannot be the name of a set; use 1 to 60 characters without colon and comma.", shown));
    }
}

void rename_set(Revision& r, const std::string& from, const std::string& to) {
    const auto in_list = [&](std::vector<std::string>& names) { std::replace(names.begin(), names.end(), from, to); };
    const auto in_pins = [&](Pins& pins) {
        if (const auto start = pins.find(Field::start); start != pins.end())
            for (auto& [iso, value] : start->second.knots)
                if (set_named_by(value) == from) value = value_of_set(to);
    };
    for (PinSet& s : r.sets) {
        if (s.name == from) s.name = to;
        in_list(s.sets);
        in_pins(s.pins);
    }
    for (Tier& t : r.tiers) {
        in_list(t.sets);
        in_pins(t.pins);
    }
}

std::vector<std::string> users_of_set(const Revision& r, const std::string& name) {
    std::vector<std::string> out;
    const auto uses = [&](const std::vector<std::string>& sets, const Pins& pins) {
        const std::vector<std::string> to = leads_to(sets, pins);
        return std::find(to.begin(), to.end(), name) != to.end();
    };
    for (const Tier& t : r.tiers)
        if (uses(t.sets, t.pins)) out.push_back(t.name);
    for (const PinSet& s : r.sets)
        if (uses(s.sets, s.pins)) out.push_back("set " + s.name);
    return out;
}

namespace {

bool can_hold_together(const Tier& a, const Tier& b) {
    if (a.iso_span && b.iso_span && (a.iso_span->first > b.iso_span->second || b.iso_span->first > a.iso_span->second))
        return false;
    return (a.raw && b.raw) || (a.rendered && b.rendered);
}

}  // namespace

std::string Conflict::sentence() const {
    return fmt::format(
        "The tiers '{}' and '{}' both pin {} for the same frames and neither ranks higher; take the pin out of one of "
        "them.",
        tier_a, tier_b, info(field).label);
}

std::vector<Conflict> find_conflicts(const Revision& revision) {
    std::vector<Conflict> out;
    // Only tiers of the same rank, target and lens can conflict, so they are compared within such groups.
    std::map<std::tuple<std::tuple<int, int, int>, std::string, std::string>, std::vector<const Tier*>> groups;
    for (const Tier& t : revision.tiers) {
        std::string lens = t.lens_condition == LensCondition::any ? "" : t.lens;
        if (t.lens_condition == LensCondition::model) lens = canonical_lens_text(t.lens);
        groups[{t.rank(), t.scope == Scope::studio ? "" : t.target, lens}].push_back(&t);
    }
    for (const auto& [key, group] : groups) {
        if (group.size() < 2) continue;
        std::vector<std::set<Field>> fields;
        for (const Tier* t : group) {
            fields.emplace_back();
            for (const FieldStatement& s : sayings(revision, t->sets, t->pins)) fields.back().insert(s.field);
        }
        for (std::size_t i = 0; i < group.size(); ++i)
            for (std::size_t j = i + 1; j < group.size(); ++j) {
                if (!can_hold_together(*group[i], *group[j])) continue;
                for (const Field field : fields[i])
                    if (fields[j].count(field))
                        out.push_back({group[i]->name, group[j]->name, group[i]->id, group[j]->id, field});
            }
    }
    return out;
}

namespace {

/// "1600-6400", "800", "3200-", "-400".
std::string iso_in_words(const std::pair<double, double>& span) {
    constexpr double lowest = 1, highest = 99999999;
    if (span.first == span.second) return fmt::format("{:g}", span.first);
    return (span.first <= lowest ? "" : fmt::format("{:g}", span.first)) + "-" +
           (span.second >= highest ? "" : fmt::format("{:g}", span.second));
}

}  // namespace

std::string describe_conditions(const Tier& t) {
    std::string out = first_of<std::string>(
        {{t.scope == Scope::studio, "studio"}, {t.scope == Scope::model, "model " + t.target}}, "body " + t.target);
    if (t.lens_condition == LensCondition::model) out += ", lens " + t.lens;
    if (t.lens_condition == LensCondition::copy) out += ", lens copy " + t.lens;
    if (t.iso_span) out += ", ISO " + iso_in_words(*t.iso_span);
    if (t.rendered) out += t.raw ? ", raw and rendered" : ", rendered";
    return out;
}

}  // namespace optrel
