// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/shot_plan.h"

#include <catch2/catch.hpp>

#include "calibration/run.h"
#include "support/rig_run.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const ChartSpec chart = ChartSpec::parse("checker:15x10:30");

PlanRequest empty_request() {
    PlanRequest r;
    r.chart = chart;
    r.geometry = {2464, 1640, 9.4};
    r.focal_px = 3768;
    return r;
}

}  // namespace

TEST_CASE("the plan of a new run names every shot and the best first one", "[calibration]") {
    const ShotPlan plan = plan_shots(empty_request());
    CHECK(plan.shots.size() == 17);
    CHECK(plan.charts_done == 0);
    REQUIRE(plan.next >= 0);
    CHECK(plan.shots[plan.next].sigma_after_px < plan.sigma_px);
    for (const PlannedShot& s : plan.shots) CHECK((s.flat || s.sigma_after_px <= plan.sigma_px * 1.0001));
    CHECK(is_one_sentence(plan.advice()));
}

TEST_CASE("the plan ticks itself off, and its gains are real", "[calibration]") {
    std::vector<RunFrame> frames = measured_rig();
    std::erase_if(frames, [](const RunFrame& f) { return f.role != RunRole::chart; });
    SolveSettings settings;
    settings.chart = chart;
    settings.model = {LensModelKind::radial_tangential, 3};  // one model throughout, so that figures can be compared
    std::vector<RunFrame> some = frames;
    for (const int i : {5, 7, 9, 12}) some[i].dropped = true;
    const RunSolution s = solve_run(some, settings, Progress());
    PlanRequest request = empty_request();
    request.geometry = s.profile.geometry;
    request.lens = &s.nodes[0].lens;
    for (const FrameOutcome& o : s.outcomes)
        if (o.used) request.views.push_back(&o.view);
    request.flats_one_way = 2;
    const ShotPlan plan = plan_shots(request);
    CHECK(plan.charts_done >= 8);
    CHECK(plan.charts_done < 13);
    CHECK(plan.flats_done == 2);
    REQUIRE(plan.next >= 0);
    const auto& next = plan.shots[plan.next];
    INFO(plan.advice());
    // A corner that no frame covers any more gains most.
    CHECK(next.name.find("left corner") != std::string::npos);
    // With all frames the uncertainty is about what the plan promised or less.
    const RunSolution all = solve_run(frames, settings, Progress());
    request.lens = &all.nodes[0].lens;
    request.views.clear();
    for (const FrameOutcome& o : all.outcomes) request.views.push_back(&o.view);
    const ShotPlan complete = plan_shots(request);
    CHECK(complete.charts_done == 13);
    CHECK(complete.sigma_px < next.sigma_after_px * 1.1);
    CHECK(complete.next == -1);
    // The plan's figure is the one that the solution states.
    CHECK(complete.sigma_px == Approx(all.profile.nodes[0].quality.max_sigma_px).epsilon(0.35));
}
