// SPDX-License-Identifier: GPL-3.0-or-later
#include "lenses/profile_rows.h"

#include "base/choose.h"
#include "base/figure_text.h"
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
    const auto shown = [](const FigureKind& kind, double value) { return q(figure_text(kind, value)); };
    add("Measured on", q(p.camera));
    add("Sensor", QString("%1 × %2, %3")
                      .arg(p.geometry.width)
                      .arg(p.geometry.height)
                      .arg(shown(figures::pitch, p.geometry.pitch_um)));
    add("Lens setting", q(to_string(n.setting)));
    if (n.mapping_from_aperture > 0)
        add("Mapping measured at", QString("f/%1").arg(n.mapping_from_aperture),
            "Only the falloff was measured at this aperture; distortion hardly changes with it");
    add("Model", q(to_string(n.model.kind())));
    add("Focal length, calibrated", shown(figures::length, n.focal_mm));
    add("Optical centre from the middle", q(pair_text(figures::length, n.centre_mm.x(), n.centre_mm.y())));
    add("Distortion, extreme", shown(figures::distortion, k.distortion_extreme_percent),
        "ISO 17850: (distorted - ideal) / ideal radius");
    const double off = decentring_px(n, p.geometry),
                 decentred_px = decentred_share * p.geometry.half_diagonal_mm() / p.geometry.pitch_mm();
    add("Decentring", shown(figures::shift, off) + (off > decentred_px ? ", decentred" : ""),
        QString(
            "The largest departure from a lens that is alike in all directions; above %1 px a copy is called decentred")
            .arg(q(number_text(figures::shift, decentred_px))),
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
    add("RMS on used frames, both axes", shown(figures::reprojection_error, k.rms_px),
        "Over both axes together: lengths of the residuals");
    add("RMS on held-out frames, both axes", shown(figures::reprojection_error, k.held_out_rms_px),
        "Over both axes together; each frame judged by a lens solved without it");
    add("Largest uncertainty, one σ of an axis", shown(figures::reprojection_error, k.max_sigma_px),
        "One sigma of an axis, the largest over the picture");
    if (k.straightness_before_px > 0) {
        add("Straightness before correction", shown(figures::shift, k.straightness_before_px),
            "The largest distance of a corner from the straight line through its row or column");
        if (k.straightness_after_px > 0)
            add("Straightness after, 95 %", shown(figures::shift, k.straightness_after_px));
    }
    add("Data reach field height", shown(figures::ratio, k.largest_height));
    add("Chart frames, corners", QString("%1, %2").arg(k.frames_used).arg(k.corners));
    if (n.red)
        add("Red left after correction", shown(figures::reprojection_error, n.red->residual_p95_px),
            "95th percentile over the picture");
    if (n.blue)
        add("Blue left after correction", shown(figures::reprojection_error, n.blue->residual_p95_px),
            "95th percentile over the picture");
    if (n.falloff) {
        for (const double h : {0.25, 0.5, 0.75, 1.0})
            add(QString("Falloff of green at field height %1").arg(h),
                shown(figures::falloff, falloff_ev(*n.falloff, Channel::green, h, p.geometry.half_diagonal_mm())));
        add("Uncertainty of the falloff", shown(figures::fine_share, n.falloff->sigma_percent),
            "One sigma in the corner");
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
