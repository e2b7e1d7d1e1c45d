// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/alike_bodies.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/words.h"
#include "patches/colour_writer.h"
#include "studio/baselines/tiers.h"
#include "studio/development/published_colours.h"

namespace optrel {
namespace {

bool sees_infrared(const Body& entry, const BodyColours& colours) {
    if (lowered(entry.condition).find("infrared") != std::string::npos) return true;
    return !colours.settings.empty() &&
           std::all_of(colours.settings.begin(), colours.settings.end(),
                       [](const ColourSetting& s) { return outside_chart(s.mean_de2000); });
}

BodyAlike compared(const Published& body, const Published* reference, const AlikeRequest& request, double kelvin,
                   AlikeColours colours) {
    BodyAlike out;
    out.measured = body.measured;
    out.kelvin = kelvin;
    for (const ColourSetting& s : body.colours.settings) {
        if (!same_light(s.kelvin, kelvin)) continue;
        const ColourSetting* like = reference ? setting_like(reference->colours, s.kelvin, s.iso) : nullptr;
        if (reference && !like) continue;
        const AlikeTarget target = like ? rendered_as_recorded(*like) : target_of_chart(body.colours);
        out.by_iso.push_back(pins_alike(s, body.colours.chart, target, request.limit, colours));
    }
    // A file holds for all ISO settings of a body, and its neutral goes with it.
    const auto has_file = [](const AlikePins& p) { return p.colour_file; };
    if (colours == AlikeColours::may_fit && std::any_of(out.by_iso.begin(), out.by_iso.end(), has_file) &&
        !std::all_of(out.by_iso.begin(), out.by_iso.end(), has_file))
        return compared(body, reference, request, kelvin, AlikeColours::always_fit);
    out.outside_chart = colours == AlikeColours::leave;
    out.spans = spans_of(out.by_iso);
    return out;
}

void add_spread(Spread& to, const Spread& s, double share) {
    to.mean += share * s.mean;
    to.p95 = std::max(to.p95, s.p95);
}

}  // namespace

AlikeResult propose_alike(const Store& store, const AlikeRequest& request) {
    const auto fleet = store.registry().fleet();
    const PublishedColours colours(store, *fleet);
    const Published* reference = nullptr;
    if (!request.reference.empty()) {
        reference = colours.of(request.reference);
        if (!reference)
            throw input_error(
                fmt::format("{} has no published colour measurement; measure it with 'colour measure', and "
                            "publish it.",
                            body_label(*fleet, request.reference)));
    }
    AlikeResult out;
    for (const std::string& id : request.bodies) {
        if (id == request.reference) continue;
        const Published* body = colours.of(id);
        if (!body) {
            out.problems.push_back(
                fmt::format("{} has no published colour measurement, so it is left out.", body_label(*fleet, id)));
            continue;
        }
        if (reference && !same_chart(reference->colours.chart, body->colours.chart)) {
            out.problems.push_back(fmt::format(
                "{} was measured on another chart than the reference, so it is left out.", body_label(*fleet, id)));
            continue;
        }
        const double kelvin = nearest_light(reference ? reference->colours : body->colours, request.kelvin);
        BodyAlike compared_body =
            compared(*body, reference, request, kelvin,
                     sees_infrared(*fleet->body(id), body->colours) ? AlikeColours::leave : AlikeColours::may_fit);
        compared_body.body = id;
        if (compared_body.by_iso.empty()) {
            out.problems.push_back(
                fmt::format("{} was not measured in the light of the reference ({}), so it is "
                            "left out.",
                            body_label(*fleet, id), figure_text(figures::temperature, kelvin)));
            continue;
        }
        out.bodies.push_back(std::move(compared_body));
    }
    if (out.bodies.empty())
        throw input_error(out.problems.empty() ? "No body besides the reference was named; name some."
                                               : out.problems.front());
    for (const BodyAlike& b : out.bodies) {
        const double share = 1.0 / static_cast<double>(out.bodies.size());
        add_spread(out.before, b.by_iso.front().before, share);
        add_spread(out.after, b.by_iso.front().after, share);
    }
    return out;
}

std::optional<Value> put_colour_file(Store& store, const BodyAlike& body, const std::string& reference,
                                     const std::string& author) {
    const auto span = std::find_if(body.spans.begin(), body.spans.end(),
                                   [](const AlikeSpan& s) { return s.pins.colour_file && s.pins.fit; });
    if (span == body.spans.end()) return std::nullopt;
    const auto fleet = store.registry().fleet();
    const Body* entry = fleet->body(body.body);
    if (!entry) throw input_error(fmt::format("The register has no body {}.", body.body));
    ColourFileText text;
    text.name =
        fmt::format("{} like {}", entry->label(), reference.empty() ? "the chart" : body_label(*fleet, reference));
    text.camera = entry->camera();
    text.copyright = "No copyright, use freely";
    const ColourProfile profile = colour_profile_from(alike_file(*span->pins.fit, text), text.name);
    return store.colours().put(profile, "measured colours " + to_string(body.measured), author).value();
}

void pin_alike(Revision& draft, const BodyAlike& body, const std::optional<Value>& colour_file) {
    Tier wanted;
    wanted.scope = Scope::body;
    wanted.target = body.body;
    wanted.name = describe_conditions(wanted);
    Tier& tier = tier_with(draft, wanted);
    const auto pin = [&](Field field, ColourFigure AlikePins::*which, double step) {
        Pin out;
        bool any = false;
        for (const AlikeSpan& s : body.spans) {
            const double value = std::round((s.pins.*which).value / step) * step;
            any = any || value != 0;
            out.knots.push_back({static_cast<double>(s.first_iso), Value{value, ""}});
            if (body.spans.size() > 1 && s.last_iso != s.first_iso)
                out.knots.push_back({static_cast<double>(s.last_iso), Value{value, ""}});
        }
        if (!any) return;
        out.measured = body.measured;
        tier.pins[field] = out;
    };
    pin(Field::exposure, &AlikePins::exposure_ev, 0.01);
    pin(Field::warmth_offset, &AlikePins::warmth, 0.1);
    pin(Field::tint_offset, &AlikePins::tint, 0.1);
    if (colour_file) {
        Pin source = Pin::constant(*colour_file);
        source.measured = body.measured;
        tier.pins[Field::colour_source] = source;
    }
    const bool neutral =
        std::any_of(body.spans.begin(), body.spans.end(), [](const AlikeSpan& s) { return s.pins.neutral; });
    if (neutral) {
        Pin offset = Pin::constant(Value{0, "offset"});
        offset.measured = body.measured;
        tier.pins[Field::white_balance] = offset;
    }
}

}  // namespace optrel
