// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/run_rows.h"

#include <cmath>

#include "base/choose.h"
#include "base/figure_text.h"
#include "widgets/place.h"

namespace optrel {

std::vector<Row> frame_rows(const std::vector<RunFrame>& frames, const RunSolution* solution) {
    std::vector<Row> rows;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        const RunFrame& f = frames[i];
        const FrameOutcome* outcome = solution && i < solution->outcomes.size() ? &solution->outcomes[i] : nullptr;
        const bool used = outcome && outcome->used;
        const bool chart = f.role == RunRole::chart && f.detection.found();
        Row row{Cell(q(f.name())),
                Cell(first_of<const char*>(
                    {{!f.measured(), ""}, {f.role == RunRole::flat, "flat"}, {f.role == RunRole::chart, "chart"}},
                    "other"))};
        row.push_back(
            chart ? Cell(QString::number(f.detection.corners.size()), static_cast<double>(f.detection.corners.size()))
                  : Cell());
        row.push_back(used && chart ? measured_cell(figures::reprojection_error, outcome->view.rms_px) : Cell());
        row.push_back(used && chart ? measured_cell(figures::coarse_angle, outcome->view.tilt_degrees()) : Cell());
        if (f.dropped)
            row.push_back(Cell("– dropped", Cell::Tone::faint, "Dropped by hand"));
        else if (!f.problem.empty())
            row.push_back(Cell("✕ cannot", Cell::Tone::serious, q(f.problem)));
        else if (!f.measured())
            row.push_back(Cell("to measure", Cell::Tone::faint));
        else if (used)
            row.push_back(Cell("✓ used", Cell::Tone::mark));
        else if (outcome && !outcome->reason.empty())
            row.push_back(Cell("! left out", Cell::Tone::warning, q(outcome->reason)));
        else
            row.push_back(Cell("measured"));
        row.push_back(outcome && outcome->node >= 0 && outcome->node < static_cast<int>(solution->profile.nodes.size())
                          ? Cell(q(to_string(solution->profile.nodes[outcome->node].setting)))
                          : Cell());
        rows.push_back(std::move(row));
    }
    return rows;
}

std::vector<Row> finding_rows(const RunSolution& solution) {
    std::vector<Row> rows;
    for (const Finding& f : solution.findings)
        rows.push_back({Cell((f.serious ? "! " + q(f.name) + ": " : QString("· ")) + q(f.text) +
                                 (f.remedy.empty() ? "" : " " + q(f.remedy)),
                             f.serious ? Cell::Tone::warning : Cell::Tone::plain,
                             f.frame >= 0 || f.place ? "Click: show the frame or the place" : "")});
    return rows;
}

TableOf<ModelTrial>* new_trials_table() {
    const auto in_sigmas = [](const ModelTrial& t) { return std::sqrt(t.unseen.weighted / 2); };
    return new TableOf<ModelTrial>(
        "Models that were tried",
        {{text_column("Model"),
          [](const ModelTrial& t) { return Cell(q(t.name()), t.taken ? Cell::Tone::mark : Cell::Tone::plain); }},
         {figure_column("RMS / px", 64),
          [](const ModelTrial& t) { return measured_cell(figures::reprojection_error, t.rms_px); }},
         {figure_column("Held out / px", 86),
          [](const ModelTrial& t) { return measured_cell(figures::reprojection_error, t.unseen.rms_px); }},
         {figure_column("In sigmas", 66),
          [=](const ModelTrial& t) { return measured_cell(figures::ratio, in_sigmas(t)); }},
         {text_column("State", 62), [](const ModelTrial& t) {
              return t.taken ? Cell("✓ taken", Cell::Tone::mark) : Cell("tried", Cell::Tone::faint);
          }}});
}

QString figures_text(const ProfileNode& n) {
    const NodeQuality& k = n.quality;
    const auto figure = [](const QString& name, const QString& value) {
        return QString("<span style='font-size:8pt;color:#626c70'>%1</span>&nbsp;%2").arg(name, value);
    };
    return QStringList{figure("model", q(to_string(n.model.kind()))),
                       figure("focal length", q(figure_text(figures::length, n.focal_mm))),
                       figure("RMS of both axes", q(figure_text(figures::reprojection_error, k.rms_px))),
                       figure("held out", q(figure_text(figures::reprojection_error, k.held_out_rms_px))),
                       figure("largest σ of an axis", q(figure_text(figures::reprojection_error, k.max_sigma_px))),
                       figure("distortion", q(figure_text(figures::distortion, k.distortion_extreme_percent))),
                       figure("coverage", q(figure_text(figures::share, 100 * k.coverage))),
                       figure("corners", QString::number(k.corners))}
        .join(" &nbsp; ");
}

}  // namespace optrel
