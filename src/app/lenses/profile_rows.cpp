// SPDX-License-Identifier: GPL-3.0-or-later
#include "lenses/profile_rows.h"

#include "base/choose.h"
#include "exchange/run_report.h"
#include "optics/compare_profiles.h"
#include "widgets/place.h"

namespace optrel {
namespace {

/// A copy counts as decentred when its mapping deviates from rotational symmetry by more than this fraction of the
/// half-diagonal: 0.3 px in a picture of 4 megapixels.
constexpr double decentred_share = 2e-4;

}  // namespace

std::vector<ProfileFigure> profile_figures(const Profile& p, int node) {
    const ProfileNode& n = p.nodes[node];
    const NodeQuality& k = n.quality;
    std::vector<ProfileFigure> rows;
    const auto add = [&](const QString& name, const QString& value, const QString& hint = {},
                         Cell::Tone tone = Cell::Tone::plain) {
        rows.push_back({name, value, hint, tone});
    };
    const auto fixed = [](double v, int digits, const char* unit) {
        return QString("%1 %2").arg(v, 0, 'f', digits).arg(unit);
    };
    add("Measured on", q(p.camera));
    add("Sensor",
        QString("%1 × %2, %3 µm").arg(p.geometry.width).arg(p.geometry.height).arg(p.geometry.pitch_um, 0, 'f', 2));
    add("Lens setting", q(to_string(n.setting)));
    if (n.mapping_from_aperture > 0)
        add("Mapping measured at", QString("f/%1").arg(n.mapping_from_aperture),
            "Only the falloff was measured at this aperture; distortion hardly changes with it");
    add("Model", q(to_string(n.model.kind())));
    add("Focal length, calibrated", fixed(n.focal_mm, 3, "mm"));
    add("Optical centre from the middle",
        QString("%1, %2 mm").arg(n.centre_mm.x(), 0, 'f', 3).arg(n.centre_mm.y(), 0, 'f', 3));
    add("Distortion, extreme", fixed(k.distortion_extreme_percent, 3, "%"),
        "ISO 17850: (distorted - ideal) / ideal radius");
    const double off = decentring_px(n, p.geometry),
                 decentred_px = decentred_share * p.geometry.half_diagonal_mm() / p.geometry.pitch_mm();
    add("Decentring", fixed(off, 2, "px") + (off > decentred_px ? ", decentred" : ""),
        QString(
            "The largest departure from a lens that is alike in all directions; above %1 px a copy is called decentred")
            .arg(decentred_px, 0, 'f', 2),
        off > decentred_px ? Cell::Tone::warning : Cell::Tone::plain);
    if (p.taken_in)
        add("Taken in from",
            q(p.taken_in->signer.empty() ? p.taken_in->source : p.taken_in->signer) + ", " +
                q(to_string(p.taken_in->standing)),
            q(describe(*p.taken_in)) + ", by " + q(p.taken_in->author) + " on " + q(p.taken_in->time.substr(0, 10)),
            p.taken_in->standing == Standing::trusted ? Cell::Tone::mark : Cell::Tone::warning);
    if (!p.measured()) {
        add("Made", q(to_string(p.origin)) + ", not measured", q(p.provenance.note), Cell::Tone::warning);
        add("Made by", q(p.provenance.author.empty() ? "not said" : p.provenance.author));
        return rows;
    }
    add("RMS on used frames, both axes", fixed(k.rms_px, 4, "px"), "Over both axes together: lengths of the residuals");
    add("RMS on held-out frames, both axes", fixed(k.held_out_rms_px, 4, "px"),
        "Over both axes together; each frame judged by a lens solved without it");
    add("Largest uncertainty, one σ of an axis", fixed(k.max_sigma_px, 4, "px"),
        "One sigma of an axis, the largest over the picture");
    if (k.straightness_before_px > 0) {
        add("Straightness before correction", fixed(k.straightness_before_px, 2, "px"),
            "The largest distance of a corner from the straight line through its row or column");
        if (k.straightness_after_px > 0) add("Straightness after, 95 %", fixed(k.straightness_after_px, 3, "px"));
    }
    add("Data reach field height", fixed(k.largest_height, 2, ""));
    add("Chart frames, corners", QString("%1, %2").arg(k.frames_used).arg(k.corners));
    if (n.red)
        add("Red left after correction", fixed(n.red->residual_p95_px, 3, "px"), "95th percentile over the picture");
    if (n.blue)
        add("Blue left after correction", fixed(n.blue->residual_p95_px, 3, "px"), "95th percentile over the picture");
    if (n.falloff) {
        for (const double h : {0.25, 0.5, 0.75, 1.0})
            add(QString("Falloff of green at field height %1").arg(h),
                fixed(falloff_ev(*n.falloff, Channel::green, h, p.geometry.half_diagonal_mm()), 3, "EV"));
        add("Uncertainty of the falloff", fixed(n.falloff->sigma_percent, 2, "%"), "One sigma in the corner");
        add("Centre of the falloff",
            first_of<const char*>(
                {{n.falloff->from_chart, "from the chart: second best"}, {n.falloff->centre_measured, "measured"}},
                "taken as optical"),
            "Apart from the lamp's gradient only when the light was turned");
    } else {
        add("Falloff", "not measured");
    }
    add("Chart", q(p.provenance.chart));
    add("Measured by", q(p.provenance.author.empty() ? "not said" : p.provenance.author));
    add("With", q(p.provenance.program));
    return rows;
}

FiguresTable* new_figures_table(int value_width) {
    return new FiguresTable(
        "Figures of the profile",
        {{text_column("Figure"), [](const ProfileFigure& f) { return Cell(f.name, Cell::Tone::plain, f.hint); }},
         {figure_column("Value", value_width), [](const ProfileFigure& f) { return Cell(f.value, f.tone, f.hint); }}});
}

}  // namespace optrel
