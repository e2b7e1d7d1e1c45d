// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/angle.h"
#include "calibration/model_choice.h"

#include <Eigen/Geometry>
#include <catch2/catch.hpp>
#include <random>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const PictureGeometry solve_geometry{2400, 1600, 9.5};

LensSolution true_lens() {
    LensSolution lens;
    lens.focal_px = 3700;
    lens.centre_px = {1211, 793};
    lens.model = LensModel(LensModelKind::radial_tangential, {-0.2, 0.25, -0.2, 2e-4, -1e-4, 0, 0});
    return lens;
}

/// Views of a 14 x 9 board at thirteen poses, with normal noise of `sigma` px.
std::vector<View> make_views(double sigma, int count = 13, unsigned seed = 1, double tilt = 30) {
    std::mt19937 random(seed);
    std::normal_distribution<double> noise(0, 1);
    std::uniform_real_distribution<double> u(-1, 1);
    const LensSolution lens = true_lens();
    std::vector<View> views;
    for (int v = 0; v < count; ++v) {
        const double k = degree;
        const Eigen::Matrix3d r = (Eigen::AngleAxisd(k * tilt * u(random), Vec3::UnitX()) *
                                   Eigen::AngleAxisd(k * tilt * u(random), Vec3::UnitY()) *
                                   Eigen::AngleAxisd(k * 8 * u(random), Vec3::UnitZ()))
                                      .toRotationMatrix();
        const Vec3 t(150 * u(random) - 195, 100 * u(random) - 120, 950 + 60 * u(random));
        View view;
        view.name = "view " + std::to_string(v);
        for (int i = 0; i < 14; ++i)
            for (int j = 0; j < 9; ++j) {
                const Vec3 p = r * Vec3(30.0 * i, 30.0 * j, 0) + t;
                const Vec2 uv = lens.centre_px + lens.focal_px * lens.model.bend(Vec2(p.x() / p.z(), p.y() / p.z()));
                if (!solve_geometry.contains(uv)) continue;
                view.points.push_back({Vec2(30.0 * i, 30.0 * j), uv + sigma * Vec2(noise(random), noise(random)),
                                       std::max(1e-8, sigma * sigma) * Eigen::Matrix2d::Identity(), false, false,
                                       Vec2::Zero()});
            }
        views.push_back(view);
    }
    return views;
}

}  // namespace

TEST_CASE("a lens is recovered from corners without noise", "[calibration]") {
    std::vector<View> views = make_views(0);
    const LensSolution lens = solve_lens(views, solve_geometry, {3600, {}}, Progress());
    CHECK(lens.focal_px == Approx(3700).epsilon(1e-5));
    CHECK((lens.centre_px - true_lens().centre_px).norm() < 0.3);
    CHECK(lens.rms_px < 0.002);
    const Vec2 p(0.3, 0.2);
    CHECK((lens.model.bend(p) - true_lens().model.bend(p)).norm() * 3700 < 0.1);
}

TEST_CASE("a lens is recovered without any idea of its focal length", "[calibration]") {
    std::vector<View> views = make_views(0.05);
    const LensSolution lens = solve_lens(views, solve_geometry, SolveStart{}, Progress());
    CHECK(lens.focal_px == Approx(3700).epsilon(0.002));
    CHECK(lens.rms_px == Approx(0.05 * std::sqrt(2.0)).epsilon(0.1));
}

TEST_CASE("the covariance of the focal length is the real one", "[calibration]") {
    double squares = 0;
    const int runs = 12;
    for (int run = 0; run < runs; ++run) {
        std::vector<View> views = make_views(0.1, 9, 100 + run);
        LensSolution lens = solve_lens(views, solve_geometry, {3700, {}}, Progress());
        add_covariance(views, lens, solve_geometry);
        REQUIRE(lens.covariance.rows() == 13);
        squares += std::pow((lens.focal_px - 3700) / std::sqrt(lens.covariance(0, 0)), 2) / runs;
    }
    CHECK(squares > 0.25);
    CHECK(squares < 3);
}

TEST_CASE("wrong corners are left out", "[calibration]") {
    std::vector<View> views = make_views(0.02);
    std::mt19937 random(5);
    int spoiled = 0;
    for (View& view : views)
        for (int k = 0; k < 5; ++k, ++spoiled) view.points[random() % view.points.size()].uv += Vec2(2 + k, -3);
    const LensSolution lens = solve_lens(views, solve_geometry, {3700, {}}, Progress());
    int rejected = 0;
    for (const View& view : views)
        for (const ViewPoint& p : view.points) rejected += p.rejected;
    CHECK(rejected >= spoiled - 6);
    CHECK(rejected <= spoiled + 10);
    CHECK(lens.rms_px < 0.04);
}

TEST_CASE("frames that were held out are as good as those that were used", "[calibration]") {
    std::vector<View> views = make_views(0.03);
    const LensSolution lens = solve_lens(views, solve_geometry, {3700, {}}, Progress());
    const double unseen = held_out(views, solve_geometry, lens, lens.floor_px, Progress()).rms_px;
    CHECK(unseen > lens.rms_px * 0.95);
    CHECK(unseen < lens.rms_px * 1.3);
}

TEST_CASE("solving again from a solution gives the same one", "[calibration]") {
    std::vector<View> views = make_views(0.03);
    const LensSolution first = solve_lens(views, solve_geometry, {3700, {}}, Progress());
    const LensSolution again = solve_lens(views, solve_geometry, {3700, first}, Progress());
    CHECK(again.focal_px == Approx(first.focal_px).epsilon(1e-5));
    CHECK((again.centre_px - first.centre_px).norm() < 0.05);
}

TEST_CASE("the same views give the same figures", "[calibration]") {
    std::vector<View> a = make_views(0.03), b = make_views(0.03);
    CHECK(solve_lens(a, solve_geometry, {3700, {}}, Progress()).focal_px ==
          solve_lens(b, solve_geometry, {3700, {}}, Progress()).focal_px);
}

TEST_CASE("a term that is held stays at zero, but counts as unknown", "[calibration]") {
    std::vector<View> views = make_views(0.05);
    LensSolution first = solve_lens(views, solve_geometry, {3700, {}}, Progress());
    first.radial_terms = 2;
    LensSolution lens = solve_lens(views, solve_geometry, {3700, first}, Progress());
    add_covariance(views, lens, solve_geometry);
    CHECK(lens.model.coefficients()[2] == 0);
    CHECK(lens.radial_terms == 2);
    CHECK(lens.covariance(5, 5) > 0);
    CHECK(held_out(views, solve_geometry, lens, lens.floor_px, Progress()).rms_px > 0.05);
}

TEST_CASE("too little to solve from is refused in one sentence", "[calibration]") {
    std::vector<View> two = make_views(0.02, 2);
    CHECK(error_of([&] { solve_lens(two, solve_geometry, {3700, {}}, Progress()); }) == "input");
    std::vector<View> none;
    CHECK(error_of([&] { solve_lens(none, solve_geometry, SolveStart{}, Progress()); }) == "input");
}

TEST_CASE("corners that are no board at all are refused", "[calibration]") {
    std::vector<View> views = make_views(0);
    std::mt19937 random(8);
    for (View& view : views)
        for (ViewPoint& p : view.points) p.uv = Vec2(random() % 2400, random() % 1600);
    CHECK(error_of([&] { solve_lens(views, solve_geometry, SolveStart{}, Progress()); }) == "input");
}

TEST_CASE("a tilt is told in degrees", "[calibration]") {
    View view;
    view.pose.rotation = Vec3(0.5, 0, 0);
    CHECK(view.tilt_degrees() == Approx(0.5 / degree));
    view.pose.rotation = Vec3(0, 0, 1);
    CHECK(view.tilt_degrees() == Approx(0).margin(1e-5));
}
