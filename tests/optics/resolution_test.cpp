// SPDX-License-Identifier: GPL-3.0-or-later
// Means of what single edges resolve, place by place, and their way through a profile.
#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "optics/curves.h"
#include "optics/resolution.h"
#include "support/sample_profile.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

constexpr double falling = 0.1;

/// MTF50 of 0.3 in the middle, less by `falling` in the corner, with noise.
std::vector<ResolutionPoint> measured(const PictureGeometry& g, double noise) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> share(0, 1);
    std::normal_distribution<double> off(0, noise);
    std::vector<ResolutionPoint> out;
    for (int i = 0; i < 3000; ++i) {
        ResolutionPoint p;
        p.place = {share(random) * g.width, share(random) * g.height};
        p.height = (p.place - g.middle()).norm() / g.half_diagonal_px();
        p.run = static_cast<LineRun>(i % 3);
        p.mtf50 = 0.3 - falling * p.height + off(random);
        if (p.run == LineRun::tangential) p.mtf50 -= 0.05 * p.height;
        p.sigma = noise;
        for (int k = 0; k < Modulation::count; ++k)
            p.modulation.values[static_cast<std::size_t>(k)] = 1 - (k + 1) * 0.09 * (1 + 0.1 * p.height);
        out.push_back(p);
    }
    return out;
}

}  // namespace

TEST_CASE("edges are gathered by part of the picture, with a robust mean each", "[optics][resolution]") {
    const PictureGeometry g{2400, 1600, 6};
    std::vector<ResolutionPoint> points = measured(g, 0.01);
    points.front().mtf50 = 0.01;  // a speck on the chart
    const std::vector<ResolutionCell> cells = resolution_cells(points, g);
    CHECK(static_cast<int>(cells.size()) == 2 * ResolutionCells::across * ResolutionCells::down);
    double chi = 0;
    for (const ResolutionCell& c : cells) {
        CHECK(c.channel == Channel::green);
        CHECK(c.run != LineRun::oblique);
        const double truth = 0.3 - (c.run == LineRun::tangential ? 0.15 : falling) * c.height;
        INFO(c.place_mm.transpose());
        CHECK(std::abs(c.mean.mtf50 - truth) < 0.012);
        chi += std::pow((c.mean.mtf50 - truth) / c.mean.sigma, 2) / static_cast<double>(cells.size());
    }
    CHECK(chi > 0.5);
    CHECK(chi < 1.6);
    const ResolutionMean middle = mean_of_cells(cells, Channel::green, LineRun::sagittal, 0, 0.3);
    CHECK(middle.count > 40);
    CHECK(middle.mtf50 == Approx(0.28).margin(0.006));
    // Linear to 1 at frequency 0, and between.
    CHECK(middle.modulation.at(0) == 1);
    CHECK(middle.modulation.at(0.125) == Approx(1 - 2.5 * 0.09 * 1.02).margin(0.003));
    CHECK(middle.modulation.at(0.6) == 0);
    CHECK(mean_of_cells(cells, Channel::red, LineRun::sagittal, 0, 2).count == 0);
}

TEST_CASE("an edge runs from the middle, about it, or neither", "[optics][resolution]") {
    CHECK(run_of({1, 0}, {100, 0}) == LineRun::tangential);
    CHECK(run_of({0, 1}, {100, 0}) == LineRun::sagittal);
    CHECK(run_of(Vec2(1, 1).normalized(), {100, 0}) == LineRun::oblique);
    CHECK(run_of({0, 1}, {0.2, 0.1}) == LineRun::oblique);
}

TEST_CASE("the resolution field goes through a profile and into its curves", "[optics][resolution]") {
    Profile p = sample_profile();
    p.nodes[0].resolution = resolution_cells(measured(p.geometry, 0.003), p.geometry);
    const std::string text = profile_to_json(p);
    const Profile read = profile_from_json(text, "a file");
    REQUIRE(read.nodes[0].resolution.size() == p.nodes[0].resolution.size());
    CHECK(profile_to_json(read) == text);
    const LensCurves curves = lens_curves(read, measured_node(read, 0));
    REQUIRE(curves.resolution.size() == 2);
    for (const LensCurve& curve : curves.resolution) {
        const double slope = curve.run == LineRun::tangential ? 0.15 : falling;
        REQUIRE(curve.samples.size() >= 5);
        for (const CurveSample& s : curve.samples) CHECK(s.value == Approx(0.3 - slope * s.height).margin(0.003));
    }
    SECTION("between settings, where nobody measured it, it has none") {
        PlacedNode between = measured_node(read, 0);
        between.placement = Placement::between;
        CHECK(lens_curves(read, between).resolution.empty());
    }
    SECTION("figures that are none are refused in one sentence") {
        const auto with = [&](const std::string& from, const std::string& to) {
            std::string broken = text;
            const auto at = broken.find(from, broken.find("\"resolution\""));
            REQUIRE(at != std::string::npos);
            return broken.replace(at, from.size(), to);
        };
        for (const auto& change : {std::pair<std::string, std::string>("\"green\"", "\"infrared\""),
                                   {"\"sagittal\"", "\"upwards\""},
                                   {"\"edges\": ", "\"edges\": -"},
                                   {"\"mtf50\": ", "\"mtf50\": -"},
                                   {"\"modulation\": [", "\"modulation\": 3, \"more\": ["},
                                   {"\"place_mm\"", "\"place\""}}) {
            const std::string said =
                sentence_of([&] { profile_from_json(with(change.first, change.second), "lens.json"); });
            INFO(change.second);
            CHECK(said.find("lens.json") != std::string::npos);
        }
    }
}
