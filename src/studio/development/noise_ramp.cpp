// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/noise_ramp.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "baselines/fewest_knots.h"
#include "baselines/resolver.h"
#include "sensor/noise_kind.h"
#include "sensor/noise_report.h"
#include "studio/baselines/tiers.h"
#include "studio/development/develop_frame.h"
#include "studio/frames/knowledge.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

/// Layout and colours of the body's frames: those of one that the store knows. Without any, a Bayer filter without
/// conversion of colours.
NoisyBody body_like(const std::vector<FrameRecord>& frames, const Fleet& fleet, const std::string& body,
                    const std::string& model) {
    NoisyBody out;
    out.like.filter = SitePattern<int>({{0, 1}, {1, 2}});
    out.like.as_shot_neutral = {0.5, 1, 0.65};
    for (const FrameRecord& frame : frames) {
        if (frame.metadata->kind != FrameKind::raw) continue;
        const FrameFacts facts = know(frame.path, frame.metadata, fleet).facts;
        if (body.empty() ? facts.model != model : facts.body != body) continue;
        try {
            const OpenedFrame opened(frame.path);
            RawPicture raw = read_raw(opened);
            add_own_colours(raw, opened, frame.metadata);
            out.longest_side = std::max(raw.counts.cols, raw.counts.rows);
            raw.counts.release();
            raw.interpolated.release();
            out.like = std::move(raw);
            return out;
        } catch (const Error&) {
            continue;  // a frame that is away; the next one serves as well
        }
    }
    return out;
}

/// True when the noise of two bodies is the same within 3 sigma, or within 5 percent, at every ISO that both have.
bool same_noise(const NoiseReport& a, const NoiseReport& b) {
    bool compared = false;
    for (const ReportedIso& here : a.isos)
        for (const ReportedIso& there : b.isos) {
            if (here.iso != there.iso) continue;
            compared = true;
            for (std::size_t c = 0; c < 3; ++c)
                for (const auto figure : {&ReportedColour::a, &ReportedColour::b}) {
                    const MeasuredFigure &x = here.colours[c].*figure, &y = there.colours[c].*figure;
                    const double apart = std::abs(x.value - y.value);
                    if (apart > 3 * std::hypot(x.sigma, y.sigma) && apart > ramp_share * std::max(x.value, y.value))
                        return false;
                }
        }
    return compared;
}

void choose_scope(NoiseRamp& out, const Store& store, const Measurement& own, const NoiseReport& report) {
    if (out.body.empty()) {
        out.scope = Scope::model;
        out.reason = fmt::format("The measurement is of the model {}.", out.model);
        return;
    }
    std::vector<std::string> same, other;
    for (const Measurement& m : store.measurements().current(noise_kind())) {
        if (m.id == own.id || m.subject.name != own.subject.name) continue;
        try {
            (same_noise(report, noise_report(m.document, m.name)) ? same : other).push_back(m.name);
        } catch (const Error&) {
            continue;  // a damaged measurement of another body says nothing of this one
        }
    }
    if (!other.empty()) {
        out.reason = fmt::format(
            "{} differs from it by more than the uncertainty, so each body gets a ramp of its own.", other.front());
    } else if (!same.empty()) {
        out.scope = Scope::model;
        out.reason =
            fmt::format("It agrees with {} within the uncertainty, so one ramp serves the model.", same.front());
    } else {
        out.reason = "No other body of this model was measured, so the ramp is this body's own.";
    }
}

Pin ramp_through(const std::vector<NoiseRampPoint>& points, double NoiseNeed::*strength,
                 const MeasurementReference& measured) {
    std::vector<std::pair<double, double>> wanted;
    for (const NoiseRampPoint& p : points) wanted.emplace_back(p.iso, p.need.*strength);
    Pin out;
    for (const auto& [iso, value] : fewest_knots(wanted, ramp_share, ramp_strength))
        out.knots.push_back({iso, Value{value, ""}});
    out.measured = measured;
    return out;
}

bool serves(const NoiseRampPoint& p, const NoiseLimit& limit) {
    const auto no_excess = [](double pinned, double needed) {
        return pinned <= needed + std::max(ramp_strength, ramp_share * needed);
    };
    return p.pinned.lightness <= 1.05 * limit.lightness && p.pinned.colour <= 1.05 * limit.colour &&
           no_excess(p.pinned_luminance, p.need.luminance) && no_excess(p.pinned_colour, p.need.colour);
}

}  // namespace

NoiseRamp derive_noise_ramp(const Store& store, const Measurement& noise, const Revision& baseline,
                            const NoiseLimit& limit, Progress& progress) {
    if (noise.kind != noise_kind().id)
        throw input_error(fmt::format(
            "{} is no noise measurement, from which noise reduction could be derived; choose one.", noise.name));
    const NoiseReport report = noise_report(noise.document, noise.name);
    const auto fleet = store.registry().fleet();
    NoiseRamp out;
    out.measured = {noise.id, noise.version};
    out.name = noise.name;
    out.model = report.camera;
    out.limit = limit;
    if (!report.serial.empty()) {
        for (const Body& body : fleet->entries().bodies)
            if (body.camera() == report.camera && body.serial == report.serial) out.body = body.id;
        if (out.body.empty())
            throw input_error(fmt::format("The body {} {} is not registered; register it in Fleet, then derive again.",
                                          report.camera, report.serial));
    }
    choose_scope(out, store, noise, report);
    const std::vector<FrameRecord> frames = store.frames().all();
    const RecordedSettings habits(facts_of(frames, *fleet).groups());
    NoisyBody body = body_like(frames, *fleet, out.body, out.model);
    const Resolver resolver(baseline);
    progress.start(static_cast<int>(report.isos.size()), "Deriving noise reduction");
    for (const ReportedIso& iso : report.isos) {
        progress.check();
        FrameFacts facts;
        if (out.body.empty()) {
            facts.model = out.model;
            facts.iso = iso.iso;
        } else {
            facts = facts_for(*fleet->body(out.body), iso.iso, habits);
        }
        ResolvedFrame fields;
        resolver.resolve(facts, fields);
        fields.colour_file = store.colours().fetch(fields[Field::colour_source].value);
        for (std::size_t c = 0; c < 3; ++c) {
            body.terms[2 * c] = iso.colours[c].a.value;
            body.terms[2 * c + 1] = iso.colours[c].b.value;
        }
        NoiseRampPoint point;
        point.iso = iso.iso;
        point.need = noise_need(body, fields, limit, progress);
        point.pinned_luminance = fields[Field::luminance_noise].value.number;
        point.pinned_colour = fields[Field::colour_noise].value.number;
        point.pinned = seen_noise(body, fields, limit, progress);
        if (!point.need.reached) out.unreached.push_back(point.iso);
        out.points.push_back(point);
        progress.step();
    }
    out.luminance = ramp_through(out.points, &NoiseNeed::luminance, out.measured);
    out.colour = ramp_through(out.points, &NoiseNeed::colour, out.measured);
    out.serves_already =
        std::all_of(out.points.begin(), out.points.end(), [&](const NoiseRampPoint& p) { return serves(p, limit); });
    return out;
}

Tier tier_of(const NoiseRamp& ramp) {
    Tier tier;
    tier.scope = ramp.scope;
    tier.target = ramp.scope == Scope::body ? ramp.body : ramp.model;
    tier.name = describe_conditions(tier);
    return tier;
}

std::string pin_noise_ramp(Revision& draft, const NoiseRamp& ramp) {
    Tier& tier = tier_with(draft, tier_of(ramp));
    tier.pins[Field::luminance_noise] = ramp.luminance;
    tier.pins[Field::colour_noise] = ramp.colour;
    return tier.id;
}

}  // namespace optrel
