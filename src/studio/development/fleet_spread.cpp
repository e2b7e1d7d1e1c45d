// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/fleet_spread.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/error.h"
#include "base/figure_text.h"
#include "patches/patch_rendering.h"
#include "studio/development/published_colours.h"
#include "studio/frames/knowledge.h"

namespace optrel {
namespace {

Spread spread_between(const RenderedChart& a, const RenderedChart& b, std::vector<cv::Vec3d> RenderedChart::*of) {
    std::vector<double> all;
    for (std::size_t i = 0; i < a.used.size(); ++i)
        if (a.used[i] && b.used[i]) all.push_back(de2000(lab_of((a.*of)[i], white_d50), lab_of((b.*of)[i], white_d50)));
    return spread_of(std::move(all));
}

/// The chart of one setting, for the light of the target.
RenderedChart rendered(const std::string& id, const Published& body, const ColourSetting& s, const ResolvedFrame& none,
                       const ResolvedFrame& pinned, const AlikeTarget& light) {
    RenderedChart out{id, s.iso, s.kelvin, {}, {}, {}};
    for (const MeasuredPatch& p : s.patches) out.used.push_back(p.used());
    out.recorded = rendered_patches(s, body.colours.camera, none);
    out.pinned = rendered_patches(s, body.colours.camera, pinned);
    const double gain = std::exp2(lighter_than(s, light).value_or(0));
    for (cv::Vec3d& v : out.recorded) v *= gain;
    for (cv::Vec3d& v : out.pinned) v *= gain;
    return out;
}

void add_pairs(FleetSpread& out) {
    for (std::size_t i = 0; i < out.charts.size(); ++i)
        for (std::size_t k = i + 1; k < out.charts.size(); ++k) {
            const RenderedChart &a = out.charts[i], &b = out.charts[k];
            if (a.iso == b.iso && a.body != b.body)
                out.pairs.push_back({a.body, b.body, a.iso, spread_between(a, b, &RenderedChart::recorded),
                                     spread_between(a, b, &RenderedChart::pinned)});
        }
}

/// Names the body whose mean distance from the others is more than half as large again as any other one's.
void find_outlier(FleetSpread& out) {
    std::map<std::string, std::pair<double, int>> sums;
    for (const PairSpread& p : out.pairs)
        for (const std::string* body : {&p.body_a, &p.body_b}) {
            sums[*body].first += p.pinned.mean;
            ++sums[*body].second;
        }
    if (sums.size() < 3) return;
    std::vector<std::pair<double, std::string>> means;
    for (const auto& [body, sum] : sums) means.emplace_back(sum.first / sum.second, body);
    std::sort(means.rbegin(), means.rend());
    if (means[0].first < 1.5 * means[1].first) return;
    out.stands_out = means[0].second;
    out.stands_out_by = means[0].first;
}

}  // namespace

std::vector<std::string> bodies_with_colours(const Store& store) {
    const auto fleet = store.registry().fleet();
    const PublishedColours colours(store, *fleet);
    std::vector<std::string> out;
    for (const Body& body : fleet->entries().bodies)
        if (colours.of(body.id)) out.push_back(body.id);
    return out;
}

FleetSpread fleet_spread(const Store& store, const std::vector<std::string>& bodies, const Revision& baseline,
                         double kelvin) {
    const auto fleet = store.registry().fleet();
    const PublishedColours colours(store, *fleet);
    const RecordedSettings habits(facts_of(store.frames().all(), *fleet).groups());
    const Resolver resolver(baseline), without_pins{Revision()};
    FleetSpread out;
    std::optional<AlikeTarget> light;  // that of the first body, at its lowest ISO
    for (const std::string& id : bodies) {
        const Published* body = colours.of(id);
        if (!body) {
            out.problems.push_back(
                fmt::format("{} has no published colour measurement, so it is left out.", body_label(*fleet, id)));
            continue;
        }
        if (out.charts.empty()) {
            out.chart = body->colours.chart;
            kelvin = nearest_light(body->colours, kelvin);
        } else if (!same_chart(out.chart, body->colours.chart)) {
            out.problems.push_back(fmt::format("{} was measured on another chart than {}, so it is left out.",
                                               body_label(*fleet, id), body_label(*fleet, out.charts[0].body)));
            continue;
        }
        const std::size_t before = out.charts.size();
        bool failed = false;
        for (const ColourSetting& s : body->colours.settings) {
            if (!same_light(s.kelvin, kelvin)) continue;
            if (!light) light = rendered_as_recorded(s);
            const FrameFacts facts = facts_for(*fleet->body(id), s.iso, habits);
            ResolvedFrame none, fields;
            without_pins.resolve(facts, none);
            resolver.resolve(facts, fields);
            try {
                fields.colour_file = store.colours().fetch(fields[Field::colour_source].value);
                out.charts.push_back(rendered(id, *body, s, none, fields, *light));
            } catch (const Error& error) {
                // For example a colour file that is gone: the other bodies are compared all the same.
                out.problems.push_back(error.what());
                failed = true;
            }
        }
        if (out.charts.size() == before && !failed)
            out.problems.push_back(
                fmt::format("{} was not measured in the light of the others ({}), so it is "
                            "left out.",
                            body_label(*fleet, id), figure_text(figures::temperature, kelvin)));
    }
    add_pairs(out);
    if (out.pairs.empty())
        throw input_error(out.problems.empty()
                              ? "At least two bodies that were measured at the same ISO are needed; choose others."
                              : out.problems.front());
    find_outlier(out);
    return out;
}

}  // namespace optrel
