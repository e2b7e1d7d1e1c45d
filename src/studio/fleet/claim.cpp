// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/fleet/claim.h"

#include <fmt/format.h>

#include <chrono>

#include "base/files.h"
#include "base/spans.h"
#include "base/station.h"
#include "base/times.h"

namespace optrel {

Claim with_recorded_times(Claim c) {
    for (std::string* time : {&c.from, &c.to})
        if (!time->empty()) *time = recorded_moment_from(*time);
    return c;
}

FleetEdit edit_for_claim(Claim c) {
    FleetEdit edit;
    c = with_recorded_times(std::move(c));
    edit.what = "claim " + describe(c);
    c.author = current_author();
    c.time = utc_now();
    // Derived from time and contents, so that simultaneous claims get different ids.
    const auto ticks = std::chrono::system_clock::now().time_since_epoch().count();
    c.id = fmt::format("c{:016x}", fnv1a(fmt::format("{} {}", ticks, claim_to_json(c))));
    edit.claims.push_back({std::nullopt, std::move(c)});
    return edit;
}

FleetEdit edit_for(const Accepted& accepted) {
    FleetEdit edit;
    edit.what = accepted.claims.empty() ? "register" : "claim";
    for (const ModelEntry& m : accepted.models) edit.models.push_back({std::nullopt, m});
    for (const Body& b : accepted.bodies) edit.bodies.push_back({std::nullopt, b});
    for (const LensEntry& l : accepted.lenses) edit.lenses.push_back({std::nullopt, l});
    for (const Claim& c : accepted.claims) edit.claims.push_back(edit_for_claim(c).claims.front());
    return edit;
}

}  // namespace optrel
