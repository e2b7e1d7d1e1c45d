// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/plan_panel.h"

#include <QSplitter>

#include "base/choose.h"
#include "bench/plan_view.h"
#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

PlanPanel::PlanPanel(QWidget* parent) : QWidget(parent) {
    advice_ = new QLabel;
    advice_->setWordWrap(true);
    advice_->setAccessibleDescription("What to shoot next");
    view_ = new PlanView;
    list_ = new Table(
        "Shot plan", {text_column("Frame to take"), figure_column("Then at most / px", 112), text_column("State", 70)});
    auto* down = new QSplitter(Qt::Vertical);
    down->addWidget(view_);
    down->addWidget(list_);
    down->setSizes({300, 190});
    auto* layout = stacked_in(this);
    layout->addWidget(advice_);
    layout->addWidget(down, 1);
    connect(list_, &Table::chosen_changed, view_, &PlanView::choose);
    clear("");
}

void PlanPanel::clear(const QString& why) {
    view_->clear(
        why.isEmpty() ? "The shot plan shows where the chart still has to stand in the picture. It needs a run." : why);
    list_->set_rows({});
    advice_->clear();
}

DrawnPlan draw_plan(const ChartSpec& chart, const std::vector<RunFrame>& frames, const RunSolution* solution,
                    int node) {
    DrawnPlan out;
    PlanRequest request;
    request.chart = chart;
    for (const RunFrame& f : frames) {
        if (f.width > 0 && request.geometry.width == 0) {
            request.geometry = {f.width, f.height, f.metadata.pitch_um > 0 ? f.metadata.pitch_um : 36000.0 / f.width};
            if (f.metadata.focal_mm > 0 && f.metadata.pitch_um > 0)
                request.focal_px = f.metadata.focal_mm / request.geometry.pitch_mm();
        }
    }
    if (solution) {
        request.geometry = solution->profile.geometry;
        request.lens = &solution->nodes[node].lens;
        request.sigma_px = solution->profile.nodes[node].quality.max_sigma_px;
        for (std::size_t i = 0; i < frames.size() && i < solution->outcomes.size(); ++i) {
            const FrameOutcome& o = solution->outcomes[i];
            if (!o.used || o.node != node) continue;
            if (frames[i].role == RunRole::chart) request.views.push_back(&o.view);
            if (frames[i].role == RunRole::flat) ++(o.light_side < 0 ? request.flats_other_way : request.flats_one_way);
        }
        for (const View* view : request.views)
            for (const ViewPoint& p : view->points)
                if (!p.rejected) out.covered.emplace_back(p.uv.x(), p.uv.y());
    } else {
        for (const RunFrame& f : frames) {
            for (const ChartCorner& c : f.detection.corners)
                out.covered.emplace_back(c.green().position.x(), c.green().position.y());
            request.flats_one_way += f.role == RunRole::flat && f.measured();
        }
    }
    out.assumed_picture = request.geometry.width == 0;
    if (out.assumed_picture) request.geometry = {6000, 4000, 6};
    out.geometry = request.geometry;
    out.plan = plan_shots(request);
    if (solution) out.next_setting = next_focal_length(solution->profile);
    return out;
}

void PlanPanel::show_plan(const DrawnPlan& drawn) {
    const ShotPlan& plan = drawn.plan;
    view_->show_plan(plan, drawn.geometry, drawn.covered);
    int total = 0;
    std::vector<Row> rows;
    for (int i = 0; i < static_cast<int>(plan.shots.size()); ++i) {
        const PlannedShot& s = plan.shots[i];
        total += !s.flat;
        Cell gain;
        if (!s.done && !s.flat) gain = Cell(QString::number(s.sigma_after_px, 'g', 3), s.sigma_after_px);
        const bool next = i == plan.next;
        rows.push_back(
            {Cell(q(s.name),
                  first_of<Cell::Tone>({{s.done, Cell::Tone::faint}, {next, Cell::Tone::mark}}, Cell::Tone::plain)),
             gain,
             first_of<Cell>({{s.done, Cell("✓ taken", Cell::Tone::faint)}, {next, Cell("▸ next", Cell::Tone::mark)}},
                            Cell("to take"))});
    }
    list_->set_rows(std::move(rows));
    QString next_set;
    if (drawn.next_setting)
        next_set = " " + q(drawn.next_setting->sentence()) +
                   QString(" The next focal length to add: %1 mm.").arg(drawn.next_setting->focal_mm, 0, 'g', 3);
    advice_->setText(QString("<b>%1 of %2</b> chart frames, <b>%3 of 4</b> flat fields. %4")
                         .arg(plan.charts_done)
                         .arg(total)
                         .arg(plan.flats_done)
                         .arg(q(plan.advice()).toHtmlEscaped()) +
                     next_set +
                     (drawn.assumed_picture ? " The outline is that of a 3:2 picture until a frame is measured." : ""));
}

}  // namespace optrel
