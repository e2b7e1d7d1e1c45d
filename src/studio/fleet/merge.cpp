// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/fleet/merge.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/station.h"
#include "studio/baselines/tiers.h"
#include "studio/fleet/claim.h"

namespace optrel {

namespace {

/// Text of a merge in the history, by which it is found again.
std::string merge_words(const std::string& from, const std::string& to) {
    return fmt::format("merge {} into {}", from, to);
}

}  // namespace

FleetEdit merge_edit(const Register& all, const std::vector<Claim>& claims, Claim::Of of, const std::string& from,
                     const std::string& to) {
    const bool bodies = of == Claim::Of::body;
    if (from == to) throw input_error(fmt::format("'{}' cannot be merged into itself; choose another entry.", from));
    for (const std::string& id : {from, to})
        if (bodies ? !all.body(id) : !all.lens(id))
            throw input_error(fmt::format("There is no '{}' in the register; it was taken out meanwhile.", id));
    FleetEdit edit;
    edit.what = merge_words(from, to);
    for (const Claim& c : claims) {
        Claim moved = c;
        if (c.of == of && c.target == from) moved.target = to;
        if (bodies && c.body == from) moved.body = to;
        if (!(moved == c)) edit.claims.push_back({c, moved});
    }
    Claim number;
    number.of = of;
    number.target = to;
    number.note = "merged from " + from;
    if (bodies) {
        const Body& gone = *all.body(from);
        number.camera = gone.camera();
        number.serial = gone.serial;
        edit.bodies.push_back({gone, std::nullopt});
    } else {
        const LensEntry& gone = *all.lens(from);
        number.lens_text = gone.lens;
        number.lens_serial = gone.serial;
        edit.lenses.push_back({gone, std::nullopt});
    }
    // Without a serial number, a claim would match every frame of the model.
    if (!number.serial.empty() || !number.lens_serial.empty())
        edit.claims.push_back(edit_for_claim(number).claims.front());
    return edit;
}

void move_tiers(Revision& draft, Claim::Of of, const std::string& from, const std::string& to) {
    const auto is_of = [&](const Tier& t) {
        return of == Claim::Of::body ? t.scope == Scope::body && t.target == from
                                     : t.lens_condition == LensCondition::copy && t.lens == from;
    };
    std::vector<Tier> moved;
    for (const Tier& t : draft.tiers)
        if (is_of(t)) moved.push_back(t);
    std::erase_if(draft.tiers, is_of);
    for (Tier& t : moved) {
        (of == Claim::Of::body ? t.target : t.lens) = to;
        t.name = describe_conditions(t);
        Tier conditions = t;
        conditions.pins.clear();
        conditions.sets.clear();
        Tier& there = tier_with(draft, conditions);
        for (const std::string& set : t.sets)
            if (std::find(there.sets.begin(), there.sets.end(), set) == there.sets.end()) there.sets.push_back(set);
        for (const auto& [field, pin] : t.pins) there.pins.emplace(field, pin);
    }
}

namespace {

/// Objection to a merge; empty: none.
std::string contradiction(const Register& all, Claim::Of of, const std::string& from, const std::string& to) {
    if (of == Claim::Of::body) {
        const std::string a = all.body(from)->camera(), b = all.body(to)->camera();
        return a == b ? "" : fmt::format("{} is a {}, and {} is a {}", from, a, to, b);
    }
    const LensEntry &a = *all.lens(from), &b = *all.lens(to);
    const auto differ = [](double x, double y) { return x > 0 && y > 0 && std::abs(x / y - 1) > 0.035; };
    if (differ(a.focal_min_mm, b.focal_min_mm) || differ(a.focal_max_mm, b.focal_max_mm))
        return fmt::format("{} has {:g} to {:g} mm, and {} {:g} to {:g} mm", from, a.focal_min_mm, a.focal_max_mm, to,
                           b.focal_min_mm, b.focal_max_mm);
    return "";
}

}  // namespace

void require_alike(const Register& all, Claim::Of of, const std::string& from, const std::string& to) {
    const bool bodies = of == Claim::Of::body;
    if (bodies ? !all.body(from) || !all.body(to) : !all.lens(from) || !all.lens(to)) return;
    if (const std::string said = contradiction(all, of, from, to); !said.empty())
        throw input_error(
            fmt::format("These are hardly one thing: {}; nothing was merged. Where the register itself is wrong they "
                        "may be merged all the same (--anyway).",
                        said));
}

void merge_entries(Store& store, Claim::Of of, const std::string& from, const std::string& to) {
    store.registry().edit(merge_edit(store.registry().entries(), store.registry().claims(), of, from, to),
                          current_author(), [&](Revision& draft) { move_tiers(draft, of, from, to); });
}

namespace {

/// History rows of a merge: of the register, followed by those of the draft.
std::vector<HistoryEntry> rows_of_merge(const Store& store, const std::string& what) {
    std::vector<HistoryEntry> all = store.history().entries("", "", 100000);
    std::sort(all.begin(), all.end(), [](const HistoryEntry& a, const HistoryEntry& b) { return a.id < b.id; });
    std::ptrdiff_t last = -1;
    for (std::size_t i = 0; i < all.size(); ++i)
        if (all[i].what == what) last = static_cast<std::ptrdiff_t>(i);
    if (last < 0) return {};
    std::ptrdiff_t first = last;
    while (first > 0 && all[static_cast<std::size_t>(first - 1)].what == what) --first;
    const HistoryEntry newest = all[static_cast<std::size_t>(last)];
    const auto with_it = [&](const HistoryEntry& e) {
        return e.kind == "tier" && e.author == newest.author && e.time == newest.time && e.station == newest.station;
    };
    while (last + 1 < static_cast<std::ptrdiff_t>(all.size()) && with_it(all[static_cast<std::size_t>(last + 1)]))
        ++last;
    return {all.begin() + first, all.begin() + last + 1};
}

template <class T>
EntryEdit<T> reversed_row(const HistoryEntry& row, T (*read)(const std::string&)) {
    EntryEdit<T> out;
    if (!row.after.empty()) out.before = read(row.after);
    if (!row.before.empty()) out.after = read(row.before);
    return out;
}

Claim claim_in_history(const std::string& text) { return claim_from_json(text, "the history"); }

}  // namespace

std::string undo_merge(Store& store, Claim::Of of, const std::string& from, const std::string& to) {
    const std::vector<HistoryEntry> rows = rows_of_merge(store, merge_words(from, to));
    if (rows.empty())
        throw input_error(
            fmt::format("Nobody merged {} into {} in this store, so there is nothing to undo.", from, to));
    FleetEdit edit;
    edit.what = "undo: " + merge_words(from, to);
    std::vector<std::pair<std::string, std::string>> tiers;  // before and after the merge
    for (const HistoryEntry& row : rows) {
        if (row.kind == "body") edit.bodies.push_back(reversed_row(row, body_from_json));
        if (row.kind == "lens") edit.lenses.push_back(reversed_row(row, lens_from_json));
        if (row.kind == "claim") edit.claims.push_back(reversed_row(row, claim_in_history));
        if (row.kind == "tier") tiers.emplace_back(row.before, row.after);
    }
    if (of == Claim::Of::body ? edit.bodies.empty() : edit.lenses.empty())
        throw input_error(
            fmt::format("{} is another kind of entry than what was merged; name it with its option.", from));
    int left = 0;
    store.registry().edit(edit, current_author(), [&](Revision& draft) {
        for (const auto& [before, after] : tiers) {
            const Tier now = tier_from_text(after.empty() ? before : after, "the history");
            const Tier* there = draft.tier(now.id);
            // An entry that was edited since is kept as it is.
            if (after.empty() ? there != nullptr : !there || !(*there == now)) {
                ++left;
                continue;
            }
            std::erase_if(draft.tiers, [&](const Tier& t) { return t.id == now.id; });
            if (!before.empty()) draft.tiers.push_back(tier_from_text(before, "the history"));
        }
    });
    return left == 0 ? "" : fmt::format("{} tiers of the draft were edited since and stay as they are.", left);
}

FleetEdit take_out_edit(const Fleet& fleet, Claim::Of of, const std::string& id) {
    FleetEdit edit;
    for (const Claim& c : fleet.claims())
        if (c.target == id || c.body == id) edit.claims.push_back({c, std::nullopt});
    if (of == Claim::Of::body)
        edit.bodies.push_back({*fleet.body(id), std::nullopt});
    else
        edit.lenses.push_back({*fleet.lens(id), std::nullopt});
    return edit;
}

}  // namespace optrel
