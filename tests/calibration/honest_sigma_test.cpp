// SPDX-License-Identifier: GPL-3.0-or-later
// One sigma is one sigma: errors against the truth of lenses that no model of ours was made for, in units of what is
// stated.
#include <Eigen/Cholesky>
#include <catch2/catch.hpp>

#include "calibration/lateral_chromatic.h"
#include "calibration/model_choice.h"
#include "optics/curves.h"
#include "support/exact_views.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

struct Lens {
    const char* name;
    LensTruth truth;
};

std::vector<Lens> lenses() {
    const auto with = [](const char* name, const std::function<void(LensTruth&)>& set) {
        Lens out{name, {}};
        out.truth.k1 = -0.08;
        out.truth.k2 = 0.02;
        set(out.truth);
        return out;
    };
    return {with("barrel", [](LensTruth&) {}),
            with("tangential terms of 1e-3",
                 [](LensTruth& t) {
                     t.p1 = 1e-3;
                     t.p2 = -7e-4;
                 }),
            with("a sensor tilted by a tenth of a degree",
                 [](LensTruth& t) {
                     t.tilt_x = 0.00175;
                     t.tilt_y = -0.0008;
                 }),
            with("distortion that turns back",
                 [](LensTruth& t) {
                     t.k1 = -0.12;
                     t.k2 = 0.35;
                     t.p1 = 2e-4;
                     t.p2 = 1e-4;
                 }),
            with("wide, decentred and tilted",
                 [](LensTruth& t) {
                     t.focal_px = 1900;
                     t.k1 = -0.1;
                     t.k2 = 0.03;
                     t.p1 = 3e-4;
                     t.p2 = -2e-4;
                     t.tilt_x = 0.001;
                 }),
            with("a division, decentred: no model of ours",
                 [](LensTruth& t) {
                     t.k1 = t.k2 = 0;
                     t.division = 0.1;
                     t.p1 = 1e-3;
                     t.p2 = -7e-4;
                 }),
            with("long pincushion", [](LensTruth& t) {
                t.focal_px = 9000;
                t.k1 = 0.35;
                t.k2 = -0.3;
                t.p1 = 2e-4;
                t.p2 = 5e-4;
                t.tilt_x = 0.001;
            })};
}

MappingError measured(const LensTruth& truth, double noise_px, unsigned seed) {
    std::vector<View> views = exact_views(truth, truth, noise_px, seed);
    const PictureGeometry g = exact_geometry();
    Progress progress;
    SolveStart start;
    start.focal_px = 1.01 * truth.focal_px;
    const LensSolution first = solve_lens(views, g, start, progress);
    ModelChoice choice = choose_model(views, g, first, {}, progress);
    add_covariance(choice.views, choice.lens, g);
    const Profile p = profile_of(choice.lens, g, common_residual_px(choice.views, g));
    return mapping_error(p, measured_node(p, 0), truth, truth);
}

}  // namespace

TEST_CASE("the mapping's error is what its sigma says, for decentred, tilted and wavy lenses", "[calibration]") {
    double squares = 0;
    int count = 0;
    for (const double noise : {0.012, 0.004})
        for (const Lens& lens : lenses()) {
            double own = 0;
            constexpr int seeds = 3;
            for (int seed = 0; seed < seeds; ++seed) {
                const MappingError e = measured(lens.truth, noise, 500 + seed);
                CHECK(e.rms_px < 0.3 * noise);
                own += e.normalised * e.normalised / seeds;
            }
            INFO(lens.name << ", noise " << noise << " px: " << std::sqrt(own) << " sigmas");
            CHECK(std::sqrt(own) > 0.5);
            CHECK(std::sqrt(own) < 1.5);
            squares += own;
            ++count;
        }
    INFO("all: " << std::sqrt(squares / count));
    CHECK(std::sqrt(squares / count) > 0.8);
    CHECK(std::sqrt(squares / count) < 1.25);
}

TEST_CASE("one sigma is one sigma where corners are very clean", "[calibration]") {
    for (const double noise : {0.002, 0.001}) {
        double squares = 0;
        for (const Lens& lens : lenses()) {
            const MappingError e = measured(lens.truth, noise, 700);
            squares += e.normalised * e.normalised / static_cast<double>(lenses().size());
        }
        INFO("noise " << noise << " px: " << std::sqrt(squares) << " sigmas");
        CHECK(std::sqrt(squares) > 0.8);
        CHECK(std::sqrt(squares) < 1.25);
    }
}

TEST_CASE("the whole covariance holds: chi-square of the parameters over many seeds", "[calibration]") {
    // A lens that the model contains, at the number of terms that it has; the parameters that the board leaves free
    // against each other (pose and lens) are compared by what can be told: the mapping, in all its independent
    // directions.
    LensTruth truth;
    truth.k1 = -0.08;
    truth.k2 = 0.02;
    const PictureGeometry g = exact_geometry();
    Progress progress;
    double sum = 0;
    int freedom = 0;
    for (unsigned seed = 0; seed < 12; ++seed) {
        std::vector<View> views = exact_views(truth, truth, 0.01, 900 + seed);
        SolveStart start;
        start.focal_px = truth.focal_px;
        LensSolution lens = solve_lens(views, g, start, progress);
        add_covariance(views, lens, g);
        Eigen::VectorXd miss(5);
        miss << lens.focal_px - truth.focal_px, lens.centre_px.x() - truth.centre.x(),
            lens.centre_px.y() - truth.centre.y(), lens.model.coefficients()[0] - truth.k1,
            lens.model.coefficients()[1] - truth.k2;
        const Eigen::MatrixXd c = lens.covariance.topLeftCorner<5, 5>();
        sum += miss.dot(c.ldlt().solve(miss));
        freedom += 5;
    }
    // Chi-square per degree of freedom: within about four of its own sigmas (sqrt(2 / 60) = 0.18).
    CHECK(sum / freedom > 0.4);
    CHECK(sum / freedom < 1.75);
}

TEST_CASE("red and blue: the curve's error is what its sigma says", "[calibration]") {
    const PictureGeometry g = exact_geometry();
    const double half = g.half_diagonal_mm();
    double squares = 0;
    int count = 0;
    for (unsigned seed = 0; seed < 20; ++seed) {
        std::mt19937 random(seed);
        std::uniform_real_distribution<double> across(0, g.width), down(0, g.height);
        std::normal_distribution<double> noise(0, 0.02 * g.pitch_mm());
        std::vector<ChromaticPoint> points;
        for (int i = 0; i < 1500; ++i) {
            const Vec2 s = g.to_sensor({across(random), down(random)});
            const double q = s.squaredNorm() / (half * half);
            // The stated sigma is half of the true one: the spread of the residuals has to tell.
            points.push_back(
                {s, s * (3e-4 + 4e-4 * q - 1e-4 * q * q) + Vec2(noise(random), noise(random)), 0.01 * g.pitch_mm()});
        }
        Profile p;
        p.geometry = g;
        p.nodes.emplace_back();
        p.nodes[0].focal_mm = 35;
        p.nodes[0].red = fit_lateral_chromatic(points, Vec2::Zero(), g);
        REQUIRE(p.nodes[0].red);
        const LensCurves curves = lens_curves(p, measured_node(p, 0), 10);
        for (const CurveSample& s : curves.fringe[0].samples) {
            if (s.height < 0.2) continue;
            const double q = s.height * s.height,
                         truth = s.height * half * (3e-4 + 4e-4 * q - 1e-4 * q * q) / g.pitch_mm();
            squares += std::pow((s.value - truth) / s.sigma, 2);
            ++count;
        }
    }
    INFO(std::sqrt(squares / count));
    CHECK(std::sqrt(squares / count) > 0.8);
    CHECK(std::sqrt(squares / count) < 1.25);
}
