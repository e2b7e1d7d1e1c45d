// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/baselines/tiers.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/files.h"
#include "base/spans.h"

namespace optrel {

std::pair<double, double> iso_span_from(const std::string& text) {
    constexpr double lowest = 1, highest = 99999999;
    const WholeSpan span = span_from(text, "ISO");
    return {static_cast<double>(span.low.value_or(static_cast<long long>(lowest))),
            static_cast<double>(span.high.value_or(static_cast<long long>(highest)))};
}

Tier described_tier(const TierDescription& w, const Naming& naming) {
    Tier t;
    if (w.scope == "studio")
        t.scope = Scope::studio;
    else if (w.scope == "model")
        t.scope = Scope::model;
    else if (w.scope == "body")
        t.scope = Scope::body;
    else
        throw usage_error(fmt::format("A scope is studio, model or body, not '{}'.", w.scope));
    if ((t.scope == Scope::studio) != w.target.empty())
        throw usage_error("A tier of a model or a body names its target, and one of the studio has none.");
    if (t.scope == Scope::model) t.target = w.not_registered_yet ? w.target : naming.model(w.target);
    if (t.scope == Scope::body) t.target = w.not_registered_yet ? w.target : naming.body(w.target);
    if (!w.lens.empty()) {
        t.lens_condition = w.lens_is_copy ? LensCondition::copy : LensCondition::model;
        t.lens = w.lens;
        if (!w.not_registered_yet) t.lens = w.lens_is_copy ? naming.lens_copy(w.lens) : naming.lens_text(w.lens);
    }
    if (!w.iso.empty()) t.iso_span = iso_span_from(w.iso);
    if (w.kind != "raw" && w.kind != "rendered" && w.kind != "both")
        throw usage_error(fmt::format("A kind is raw, rendered or both, not '{}'.", w.kind));
    t.raw = w.kind != "rendered";
    t.rendered = w.kind != "raw";
    t.name = describe_conditions(t);
    return t;
}

std::string tier_id_for(const Revision& revision, const Tier& conditions) {
    const std::string words = describe_conditions(conditions);
    const std::string base = fmt::format("t{:012x}", fnv1a(words) & 0xffffffffffffull);
    for (int n = 1;; ++n) {
        const std::string id = n == 1 ? base : fmt::format("{}-{}", base, n);
        const Tier* there = revision.tier(id);
        if (!there || describe_conditions(*there) == words) return id;
    }
}

Tier& tier_with(Revision& revision, const Tier& conditions) {
    const std::string words = describe_conditions(conditions);
    const auto it = std::find_if(revision.tiers.begin(), revision.tiers.end(),
                                 [&](const Tier& t) { return describe_conditions(t) == words; });
    if (it != revision.tiers.end()) return *it;
    revision.tiers.push_back(conditions);
    Tier& added = revision.tiers.back();
    added.id.clear();
    added.id = tier_id_for(revision, conditions);
    return added;
}

void copy_pins(Revision& revision, const std::string& from_id, const std::string& to_id) {
    const Tier* from = revision.tier(from_id);
    Tier* to = revision.tier(to_id);
    if (!from || !to)
        throw input_error(
            fmt::format("There is no tier '{}' in the draft; Baselines and 'baseline tiers' show them all.",
                        from ? to_id : from_id));
    for (const std::string& set : from->sets)
        if (std::find(to->sets.begin(), to->sets.end(), set) == to->sets.end()) to->sets.push_back(set);
    for (const auto& [field, pin] : from->pins) to->pins[field] = pin;
}

}  // namespace optrel
