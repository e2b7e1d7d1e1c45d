// SPDX-License-Identifier: GPL-3.0-or-later
// What a lens resolves over the picture: with the run, with the profile, and after the correction.
#include "studio/development/chart_sharpness.h"
#include "base/angle.h"

#include <catch2/catch.hpp>
#include <cmath>

#include "calibration/run.h"
#include "calibration/run_json.h"
#include "studio/development/edge_curves.h"
#include "support/rig_run.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// Of a Gaussian blur (px) gathered by square pixels, along their rows.
double modulation_of(double blur_px, double f) {
    return std::exp(-2 * std::pow(pi * blur_px * f, 2)) * std::sin(pi * f) / (pi * f);
}

double mtf50_of(double blur_px) {
    double low = 0.01, high = 1;
    for (int i = 0; i < 60; ++i) {
        const double f = (low + high) / 2;
        (modulation_of(blur_px, f) > 0.5 ? low : high) = f;
    }
    return low;
}

}  // namespace

TEST_CASE("measured chart frames keep what their edges resolve, and a profile its field", "[studio][resolution]") {
    const RigRun run = measured_rig_run("A. Tester");
    const RunFrame* chart = nullptr;
    for (const RunFrame& f : run.frames)
        if (f.role == RunRole::chart && !f.resolution.empty()) chart = &f;
    REQUIRE(chart);
    const RunFrame read = run_frame_from_json(run_frame_to_json(*chart), "run 1");
    REQUIRE(read.resolution.size() == chart->resolution.size());
    CHECK(read.resolution.back().mtf50 == chart->resolution.back().mtf50);
    CHECK(read.resolution.back().height == Approx(chart->resolution.back().height));

    const RunSolution solution = solve_run(run.frames, run.settings, Progress());
    const std::vector<ResolutionCell>& cells = solution.profile.nodes[0].resolution;
    // The rig blurs alike over the picture; edges at a few degrees see nearly the rows' aperture.
    for (const LineRun lines : {LineRun::sagittal, LineRun::tangential})
        for (const auto& [low, high] : {std::pair(0.0, 0.5), std::pair(0.5, 1.1)}) {
            const ResolutionMean m = mean_of_cells(cells, Channel::green, lines, low, high);
            INFO(to_string(lines) << " from " << low);
            REQUIRE(m.count > 30);
            CHECK(m.mtf50 == Approx(mtf50_of(0.55)).epsilon(0.03));
            for (const double f : {0.1, 0.2, 0.4})
                CHECK(m.modulation.at(f) == Approx(modulation_of(0.55, f)).margin(0.015));
        }
}

TEST_CASE("a chart frame is measured before and after its correction over the whole picture", "[studio][resolution]") {
    const ChartSharpness s =
        chart_sharpness(rig_frame("CH0010"), bare_development(rig_frame("CH0010")), {}, Progress());
    const auto mean = [](const std::vector<ResolutionPoint>& points) {
        return mean_resolution(points, Channel::green, LineRun::sagittal, 0, 1.1);
    };
    const ResolutionMean before = mean(s.before.points), after = mean(s.after);
    CHECK(s.before.edges > 150);
    REQUIRE(before.count > 20);
    REQUIRE(after.count > 20);
    // Interpolating the mosaic costs a little, and adds nothing.
    CHECK(after.mtf50 < 1.05 * before.mtf50);
    CHECK(after.mtf50 > 0.6 * before.mtf50);
    SECTION("and along one edge with the same room beside it") {
        const ResolutionPoint* edge = nullptr;
        for (const ResolutionPoint& p : s.before.points)
            if (p.channel == Channel::green && p.height < 0.4) edge = &p;
        REQUIRE(edge);
        const Vec2 along(20 * std::cos(edge->angle_deg * degree), 20 * std::sin(edge->angle_deg * degree));
        const EdgeCurves curves = edge_curves(rig_frame("CH0010"), bare_development(rig_frame("CH0010")),
                                              edge->place - along, edge->place + along, Progress());
        REQUIRE(curves.before[1].usable);
        CHECK(curves.before[1].mtf50 == Approx(edge->mtf50).epsilon(0.15));
        CHECK(curves.after[1].usable);
    }
    SECTION("a frame without a board is told") {
        const std::string said = sentence_of(
            [] { chart_sharpness(rig_frame("SP0001"), bare_development(rig_frame("SP0001")), {}, Progress()); });
        CHECK(said.find("SP0001.dng shows no board") != std::string::npos);
    }
}
