// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/merge.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/station.h"
#include "studio/claim.h"
#include "studio/tiers.h"

namespace optrel {

FleetEdit merge_edit(const Register& all, const std::vector<Claim>& claims, Claim::Of of, const std::string& from,
                     const std::string& to) {
    const bool bodies = of == Claim::Of::body;
    if (from == to) throw input_error(fmt::format("'{}' cannot be merged into itself; choose another entry.", from));
    for (const std::string& id : {from, to})
        if (bodies ? !all.body(id) : !all.lens(id))
            throw input_error(fmt::format("There is no '{}' in the register; it was taken out meanwhile.", id));
    FleetEdit edit;
    edit.what = fmt::format("merge {} into {}", from, to);
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
    // Without a number a claim would take every frame of the model.
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

void merge_entries(Store& store, Claim::Of of, const std::string& from, const std::string& to) {
    store.registry().edit(merge_edit(store.registry().entries(), store.registry().claims(), of, from, to),
                          current_author(), [&](Revision& draft) { move_tiers(draft, of, from, to); });
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
