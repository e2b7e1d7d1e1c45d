// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/baselines/drafting.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/words.h"
#include "studio/baselines/naming.h"
#include "studio/baselines/references.h"

namespace optrel {
namespace {

Tier& tier_of(Revision& draft, const std::string& id) {
    if (Tier* tier = draft.tier(id)) return *tier;
    throw input_error(
        fmt::format("There is no tier '{}' in the draft any more; look at the draft and choose another.", id));
}

PinSet& set_of(Revision& draft, const std::string& name) { return *draft.set(set_named(draft, name)); }

/// Parses "name, name" into sets of the draft; `none` stands for an empty list.
std::vector<std::string> sets_in(const Revision& draft, const std::string& names, const char* none) {
    std::vector<std::string> out;
    for (const std::string& name : listed(names))
        if (name != none) out.push_back(set_named(draft, name));
    return out;
}

}  // namespace

std::optional<Pin> typed_pin(Field field, const std::string& text, const References& known, const Revision& draft) {
    const std::string value = trimmed(text);
    if (value.empty() || value == "inherits") return std::nullopt;
    return pin_named(field, value, known, draft);
}

void add_tier(Revision& draft, const Tier& tier) {
    for (const Tier& t : draft.tiers)
        if (describe_conditions(t) == describe_conditions(tier))
            throw input_error(
                fmt::format("There is a tier with these very conditions already ('{}'); pin the field there.", t.name));
    draft.tiers.push_back(tier);
}

void rename_tier(Revision& draft, const std::string& id, const std::string& name) {
    if (trimmed(name).empty()) throw input_error("A tier needs a name; write one that says what it is for.");
    tier_of(draft, id).name = trimmed(name);
}

void delete_tier(Revision& draft, const std::string& id) {
    tier_of(draft, id);
    std::erase_if(draft.tiers, [&](const Tier& t) { return t.id == id; });
}

void bring_back_tier(Revision& draft, const Tier& tier) {
    if (draft.tier(tier.id)) throw input_error(fmt::format("The tier '{}' is in the draft already.", tier.name));
    add_tier(draft, tier);
    check_sets(draft);
}

void pin_in_tier(Revision& draft, const std::string& id, Field field, const std::optional<Pin>& pin) {
    Tier& tier = tier_of(draft, id);
    if (pin)
        tier.pins[field] = *pin;
    else if (!tier.pins.erase(field))
        throw input_error(fmt::format("The tier '{}' does not pin {}, so there is nothing to take out.", tier.name,
                                      info(field).label));
    check_sets(draft);
}

void use_set(Revision& draft, const std::string& id, const std::string& set, bool use) {
    const std::string name = set_named(draft, set);
    Tier& tier = tier_of(draft, id);
    const auto erased = std::erase(tier.sets, name);
    if (!use && erased == 0)
        throw input_error(
            fmt::format("The tier '{}' does not use the set '{}', so there is nothing to take out.", tier.name, name));
    if (use) tier.sets.push_back(name);
    check_sets(draft);
}

void use_sets(Revision& draft, const std::string& id, const std::string& names) {
    const std::vector<std::string> sets = sets_in(draft, names, "none");
    tier_of(draft, id).sets = sets;
    check_sets(draft);
}

void drop_empty_tier(Revision& draft, const std::string& id) {
    std::erase_if(draft.tiers, [&](const Tier& t) { return t.id == id && t.pins.empty() && t.sets.empty(); });
}

std::string add_set(Revision& draft) {
    std::string name = "new set";
    for (int n = 2; draft.set(name); ++n) name = fmt::format("new set {}", n);
    draft.sets.push_back({name, "", {}, {}});
    return name;
}

void pin_in_set(Revision& draft, const std::string& name, Field field, const std::optional<Pin>& pin) {
    check_set_name(name);
    if (!pin) {
        PinSet& set = set_of(draft, name);
        if (!set.pins.erase(field))
            throw input_error(fmt::format("The set '{}' does not pin {}, so there is nothing to take out.", set.name,
                                          info(field).label));
        return;
    }
    if (!draft.set(name)) draft.sets.push_back({name, "", {}, {}});
    draft.set(name)->pins[field] = *pin;
    check_sets(draft);
}

void build_set_on(Revision& draft, const std::string& name, const std::string& names) {
    const std::vector<std::string> sets = sets_in(draft, names, "nothing");
    set_of(draft, name).sets = sets;
    check_sets(draft);
}

void rename_set_to(Revision& draft, const std::string& name, const std::string& to) {
    const std::string wanted = trimmed(to);
    check_set_name(wanted);
    const std::string from = set_named(draft, name);
    if (draft.set(wanted)) throw input_error(fmt::format("There is a set '{}' already; choose another name.", wanted));
    rename_set(draft, from, wanted);
}

void delete_set(Revision& draft, const std::string& name) {
    const std::string gone = set_named(draft, name);
    if (const auto users = users_of_set(draft, gone); !users.empty())
        throw input_error(
            fmt::format("The set '{}' is used by '{}'; take it out there first.", gone, fmt::join(users, "', '")));
    std::erase_if(draft.sets, [&](const PinSet& s) { return s.name == gone; });
}

std::vector<std::string> take_in_sets(Revision& draft, const std::vector<PinSet>& sets, TakeIn how) {
    std::vector<std::string> replaced;
    for (const PinSet& s : sets) {
        PinSet* there = draft.set(s.name);
        if (!there) {
            draft.sets.push_back(s);
            continue;
        }
        if (*there == s) continue;
        if (how == TakeIn::refuse_others)
            throw input_error(fmt::format(
                "The draft has another set '{}' already; rename one, or import so that it is replaced.", s.name));
        replaced.push_back(s.name);
        *there = s;
    }
    check_sets(draft);
    return replaced;
}

int take_in_draft(Revision& draft, const Revision& wanted, const Revision& current, TakeIn how) {
    const int changes = static_cast<int>(difference(current, draft).size());
    if (changes > 0 && how == TakeIn::refuse_others)
        throw input_error(
            fmt::format("The draft has {} changes that are not published and that the import would replace; "
                        "publish them, or let them be replaced (--replace).",
                        changes));
    draft.tiers = wanted.tiers;
    draft.sets = wanted.sets;
    return changes;
}

Published publish_draft(Store& store, const std::string& author, const std::string& note, const Revision* expected,
                        StoredBaselines::ProfileVersions versions) {
    const Revision before = store.baselines().current();
    Published out;
    out.revision = store.baselines().publish(author, note, expected, versions);
    out.changes = difference(before, out.revision);
    return out;
}

}  // namespace optrel
