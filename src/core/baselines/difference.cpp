// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/difference.h"

#include <fmt/format.h>

#include <algorithm>
#include <unordered_map>

namespace optrel {
namespace {

template <class T, class Key>
std::unordered_map<std::string, const T*> by_key(const std::vector<T>& list, const Key& key) {
    std::unordered_map<std::string, const T*> out;
    for (const T& t : list) out[key(t)] = &t;
    return out;
}
template <class T>
std::unordered_map<std::string, const T*> indexed(const std::vector<T>& list) {
    return by_key(list, [](const T& t) { return id_of(t); });
}

std::string list_text(const std::vector<std::string>& names) {
    return names.empty() ? "none" : fmt::format("{}", fmt::join(names, ", "));
}

void compare_pins(const std::string& name, const Pins& a, const Pins& b, std::vector<RevisionChange>& out) {
    if (a == b) return;
    for (const FieldInfo& f : all_fields()) {
        const auto x = a.find(f.field), y = b.find(f.field);
        const std::string was = x == a.end() ? "inherits" : describe(f.field, x->second),
                          is = y == b.end() ? "inherits" : describe(f.field, y->second);
        if (was != is) out.push_back({name, f.label, was, is});
    }
}

}  // namespace

std::vector<RevisionChange> difference(const Revision& before, const Revision& after) {
    std::vector<RevisionChange> out;
    const auto old_tiers = indexed(before.tiers), new_tiers = indexed(after.tiers);
    for (const Tier& t : after.tiers) {
        const auto it = old_tiers.find(t.id);
        if (it == old_tiers.end()) {
            out.push_back({t.name, "", "no tier", describe_conditions(t)});
            if (!t.sets.empty()) out.push_back({t.name, "Sets", "none", list_text(t.sets)});
            compare_pins(t.name, {}, t.pins, out);
            continue;
        }
        const Tier& old = *it->second;
        if (old == t) continue;
        if (describe_conditions(old) != describe_conditions(t))
            out.push_back({t.name, "", describe_conditions(old), describe_conditions(t)});
        if (old.name != t.name) out.push_back({t.name, "Name", old.name, t.name});
        if (old.sets != t.sets) out.push_back({t.name, "Sets", list_text(old.sets), list_text(t.sets)});
        compare_pins(t.name, old.pins, t.pins, out);
    }
    for (const Tier& t : before.tiers)
        if (!new_tiers.count(t.id)) out.push_back({t.name, "", describe_conditions(t), "deleted"});
    const auto old_sets = indexed(before.sets), new_sets = indexed(after.sets);
    for (const PinSet& s : after.sets) {
        const auto it = old_sets.find(s.name);
        const PinSet& old = it == old_sets.end() ? PinSet{} : *it->second;
        if (it == old_sets.end()) out.push_back({"set " + s.name, "", "no set", "new set"});
        if (old.note != s.note && it != old_sets.end()) out.push_back({"set " + s.name, "Note", old.note, s.note});
        if (old.sets != s.sets) out.push_back({"set " + s.name, "Sets", list_text(old.sets), list_text(s.sets)});
        compare_pins("set " + s.name, old.pins, s.pins, out);
    }
    for (const PinSet& s : before.sets)
        if (!new_sets.count(s.name)) out.push_back({"set " + s.name, "", "set", "deleted"});
    std::map<std::string, Pins> models = before.recorded_adds;
    models.insert(after.recorded_adds.begin(), after.recorded_adds.end());
    for (const auto& [model, unused] : models) {
        const auto a = before.recorded_adds.find(model), b = after.recorded_adds.find(model);
        compare_pins("as recorded: " + model, a == before.recorded_adds.end() ? Pins{} : a->second,
                     b == after.recorded_adds.end() ? Pins{} : b->second, out);
    }
    return out;
}

namespace {

void merge_pins(const std::string& name, const Pins& base, const Pins& mine, Pins& into,
                std::vector<std::string>& refused) {
    for (const FieldInfo& f : all_fields()) {
        const auto get = [&](const Pins& p) { return p.count(f.field) ? &p.at(f.field) : nullptr; };
        const auto same = [](const Pin* a, const Pin* b) { return (!a && !b) || (a && b && *a == *b); };
        const Pin *was = get(base), *wish = get(mine), *now = get(into);
        if (same(was, wish) || same(wish, now)) continue;
        const auto said = [&](const Pin* p) { return p ? describe(f.field, *p) : "inherits"; };
        if (!same(was, now))
            refused.push_back(
                fmt::format("{} of '{}' was set to {} at another station meanwhile; yours ({}) was not taken.", f.label,
                            name, said(now), said(wish)));
        else if (wish)
            into[f.field] = *wish;
        else
            into.erase(f.field);
    }
}

template <class T>
void merge_lists(const std::vector<T>& base, const std::vector<T>& mine, std::vector<T>& into, const char* what,
                 std::vector<std::string>& refused) {
    const auto in_base = indexed(base), in_mine = indexed(mine);
    for (const T& wish : mine) {
        const auto was = in_base.find(id_of(wish));
        if (was != in_base.end() && *was->second == wish) continue;
        const auto now = std::find_if(into.begin(), into.end(), [&](const T& t) { return id_of(t) == id_of(wish); });
        if (now == into.end()) {
            if (was == in_base.end())
                into.push_back(wish);
            else
                refused.push_back(fmt::format(
                    "The {} '{}' was deleted at another station meanwhile; your change of it was not taken.", what,
                    wish.name));
            continue;
        }
        T next = wish;
        next.pins = now->pins;
        const T before = was == in_base.end() ? T{} : *was->second;
        merge_pins(wish.name, before.pins, wish.pins, next.pins, refused);
        // All beside the pins changes hands as a whole.
        T mine_rest = wish, base_rest = before, now_rest = *now;
        mine_rest.pins = base_rest.pins = now_rest.pins = {};
        if (mine_rest == base_rest || !(now_rest == base_rest)) {
            if (!(mine_rest == base_rest) && !(mine_rest == now_rest))
                refused.push_back(
                    fmt::format("The {} '{}' was changed at another station meanwhile; your change of its conditions "
                                "was not taken.",
                                what, now->name));
            const Pins pins = next.pins;
            next = *now;
            next.pins = pins;
        }
        *now = next;
    }
    for (const T& t : base) {
        if (in_mine.count(id_of(t))) continue;
        const auto now =
            std::find_if(into.begin(), into.end(), [&](const T& other) { return id_of(other) == id_of(t); });
        if (now == into.end()) continue;
        if (*now == t)
            into.erase(now);
        else
            refused.push_back(fmt::format(
                "The {} '{}' was changed at another station meanwhile, so it was not deleted.", what, t.name));
    }
}

}  // namespace

MergedDrafts merge_drafts(const Revision& base, const Revision& mine, const Revision& theirs) {
    MergedDrafts out{theirs, {}};
    merge_lists(base.tiers, mine.tiers, out.draft.tiers, "tier", out.refused);
    merge_lists(base.sets, mine.sets, out.draft.sets, "set", out.refused);
    return out;
}

}  // namespace optrel
