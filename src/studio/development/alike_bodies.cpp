// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/alike_bodies.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>

#include "base/error.h"
#include "studio/baselines/tiers.h"

namespace optrel {
namespace {

/// A body's published colours.
struct Published {
    MeasurementReference measured;
    BodyColours colours;
};

std::string label_of(const Fleet& fleet, const std::string& id) {
    const Body* body = fleet.body(id);
    return body ? body->label() : id;
}

class Colours {
public:
    Colours(Store& store, const Fleet& fleet) : fleet_(fleet) {
        for (const Measurement& m : store.measurements().current(colour_kind()))
            all_.push_back({{m.id, m.version}, body_colours_from_json(m.document, m.name)});
    }
    /// Null when the body was not measured.
    const Published* of(const std::string& id) const {
        const Body* body = fleet_.body(id);
        if (!body) throw input_error(fmt::format("The register has no body {}.", id));
        for (const Published& p : all_)
            if (p.colours.camera == body->camera() && p.colours.serial == body->measured_serial()) return &p;
        return nullptr;
    }

private:
    const Fleet& fleet_;
    std::vector<Published> all_;
};

bool same_chart(const PatchChart& a, const PatchChart& b) {
    if (a.patches.size() != b.patches.size()) return false;
    for (std::size_t i = 0; i < a.patches.size(); ++i)
        if (a.patches[i].id != b.patches[i].id || cv::norm(a.patches[i].xyz_d50 - b.patches[i].xyz_d50) > 0.01)
            return false;
    return true;
}

/// The light of a body's settings that is nearest to a temperature.
double nearest_light(const BodyColours& body, double kelvin) {
    double best = 0;
    for (const ColourSetting& s : body.settings)
        if (best == 0 || std::abs(1 / s.kelvin - 1 / kelvin) < std::abs(1 / best - 1 / kelvin)) best = s.kelvin;
    return best;
}

BodyAlike compared(const Published& body, const Published* reference, const AlikeRequest& request, double kelvin) {
    BodyAlike out;
    out.measured = body.measured;
    out.kelvin = kelvin;
    for (const ColourSetting& s : body.colours.settings) {
        if (!same_light(s.kelvin, kelvin)) continue;
        const ColourSetting* like = reference ? setting_like(reference->colours, s.kelvin, s.iso) : nullptr;
        if (reference && !like) continue;
        const AlikeTarget target = like ? rendered_as_recorded(*like) : target_of_chart(body.colours);
        out.by_iso.push_back(pins_alike(s, body.colours.chart, target, request.limit));
    }
    out.spans = spans_of(out.by_iso);
    return out;
}

void add_spread(Spread& to, const Spread& s, double share) {
    to.mean += share * s.mean;
    to.p95 = std::max(to.p95, s.p95);
}

}  // namespace

AlikeResult propose_alike(Store& store, const AlikeRequest& request) {
    const auto fleet = store.registry().fleet();
    const Colours colours(store, *fleet);
    const Published* reference = nullptr;
    if (!request.reference.empty()) {
        reference = colours.of(request.reference);
        if (!reference)
            throw input_error(
                fmt::format("{} has no published colour measurement; measure it with 'colour measure', and "
                            "publish it.",
                            label_of(*fleet, request.reference)));
    }
    AlikeResult out;
    for (const std::string& id : request.bodies) {
        if (id == request.reference) continue;
        const Published* body = colours.of(id);
        if (!body) {
            out.problems.push_back(
                fmt::format("{} has no published colour measurement, so it is left out.", label_of(*fleet, id)));
            continue;
        }
        if (reference && !same_chart(reference->colours.chart, body->colours.chart)) {
            out.problems.push_back(fmt::format(
                "{} was measured on another chart than the reference, so it is left out.", label_of(*fleet, id)));
            continue;
        }
        const double kelvin = nearest_light(reference ? reference->colours : body->colours, request.kelvin);
        BodyAlike compared_body = compared(*body, reference, request, kelvin);
        compared_body.body = id;
        if (compared_body.by_iso.empty()) {
            out.problems.push_back(
                fmt::format("{} was not measured in the light of the reference ({:.0f} K), so it is "
                            "left out.",
                            label_of(*fleet, id), kelvin));
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

void pin_alike(Revision& draft, const BodyAlike& body) {
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
    const bool neutral =
        std::any_of(body.spans.begin(), body.spans.end(), [](const AlikeSpan& s) { return s.pins.neutral; });
    if (neutral) {
        Pin offset = Pin::constant(Value{0, "offset"});
        offset.measured = body.measured;
        tier.pins[Field::white_balance] = offset;
    }
}

}  // namespace optrel
