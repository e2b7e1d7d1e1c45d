// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/model_choice.h"

#include <Eigen/Geometry>
#include <catch2/catch.hpp>
#include <random>

#include "optics/frame_map.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const PictureGeometry choice_geometry{2400, 1600, 9.5};

/// Views of a 14 x 9 board that turns its face to the lens wherever it stands, so that wide lenses see it everywhere.
std::vector<View> views_of(const LensSolution& lens, double reach, double distance, double sigma = 0.02,
                           const BoardShape& shape = {}) {
    std::mt19937 random(3);
    std::normal_distribution<double> noise(0, 1);
    std::uniform_real_distribution<double> u(-1, 1);
    std::vector<View> views;
    for (int v = 0; v < 16; ++v) {
        const auto off_axis = [&](double side) { return side * reach * (0.5 + 0.5 * std::abs(u(random))); };
        const double down = v < 4 ? 0.2 * u(random) : 0.7 * off_axis(v % 4 < 2 ? 1 : -1);
        const double across = v < 4 ? 0.2 * u(random) : off_axis(v % 2 ? 1 : -1);
        const Vec3 towards = Vec3(across, down, 1).normalized();
        const Eigen::Matrix3d face = Eigen::Quaterniond::FromTwoVectors(Vec3::UnitZ(), towards).toRotationMatrix();
        const Eigen::Matrix3d r = face * (Eigen::AngleAxisd(0.5 * u(random), Vec3::UnitX()) *
                                          Eigen::AngleAxisd(0.5 * u(random), Vec3::UnitY()))
                                             .toRotationMatrix();
        const Vec3 t = distance * towards;
        View view;
        view.name = "view " + std::to_string(v);
        for (int i = 0; i < 14; ++i)
            for (int j = 0; j < 9; ++j) {
                const Vec2 board(30.0 * i - 195, 30.0 * j - 120);
                const Vec3 p = r * shape.place(board) + t;
                if (p.z() < 1) continue;
                const Vec2 uv = lens.centre_px + lens.focal_px * lens.model.bend(p);
                if (!choice_geometry.contains(uv)) continue;
                ViewPoint point;
                point.board_mm = board;
                point.uv = uv + sigma * Vec2(noise(random), noise(random));
                point.covariance = sigma * sigma * Eigen::Matrix2d::Identity();
                view.points.push_back(point);
            }
        if (view.points.size() >= 20) views.push_back(view);
    }
    return views;
}

LensSolution lens_of(LensModelKind kind, std::vector<double> c, double focal_px) {
    LensSolution lens;
    lens.focal_px = focal_px;
    lens.centre_px = {1208, 795};
    lens.model = LensModel(kind, Eigen::Map<Eigen::VectorXd>(c.data(), static_cast<Eigen::Index>(c.size())));
    return lens;
}

ModelChoice choose(std::vector<View> views, double focal_px, const ModelRequest& wish = {}) {
    const LensSolution first = solve_lens(views, choice_geometry, {focal_px, {}}, Progress());
    return choose_model(views, choice_geometry, first, wish, Progress());
}

}  // namespace

TEST_CASE("a rectilinear lens gets the radial-tangential model, with no more terms than it needs", "[calibration]") {
    const ModelChoice two = choose(
        views_of(lens_of(LensModelKind::radial_tangential, {-0.15, 0.08, 0, 0, 0, 0, 0}, 3600), 0.25, 1000), 3600);
    CHECK(two.lens.model.kind() == LensModelKind::radial_tangential);
    CHECK(two.lens.radial_terms == 2);
    const ModelChoice three = choose(
        views_of(lens_of(LensModelKind::radial_tangential, {-0.25, 0.3, -0.5, 0, 0, 0, 0}, 2600), 0.4, 800), 2600);
    CHECK(three.lens.radial_terms == 3);
    CHECK_FALSE(three.lens.board_free);
    int taken = 0;
    for (const ModelTrial& t : three.trials) taken += t.taken;
    CHECK(taken == 1);
    CHECK(three.trials.size() >= 3);
}

TEST_CASE("a fisheye is found without being told, and its angles are right", "[calibration]") {
    const LensSolution truth = lens_of(LensModelKind::equidistant, {-0.045, 0.004, 0, 0, 0.001, -0.0005, 0, 0}, 1100);
    const ModelChoice c = choose(views_of(truth, 1.6, 260), 0);
    CHECK(c.lens.model.kind()->angular());
    CHECK(c.unseen.rms_px < 0.05);
    CHECK(c.lens.focal_px == Approx(1100).epsilon(1e-3));
    // With a recorded focal length it is quicker, and the same.
    CHECK(choose(views_of(truth, 1.6, 260), 1080).lens.focal_px == Approx(c.lens.focal_px).epsilon(1e-5));
}

TEST_CASE("a fisheye gets the projection that it was designed after, with few terms", "[calibration]") {
    // About equisolid and stereographic projections, each with some distortion of its own.
    for (const LensModelKind kind : {LensModelKind::equisolid, LensModelKind::stereographic}) {
        const LensSolution truth = lens_of(kind, {0.015, 0, 0, 0, 0.001, -0.0005, 0, 0}, 900);
        const ModelChoice c = choose(views_of(truth, 1.9, 240), 900);
        INFO(to_string(kind));
        CHECK(c.lens.model.kind() == kind);
        CHECK(c.lens.radial_terms <= 3);
        // Beyond where charts stood as well; its centre trades against the pose of the camera.
        const double tangent = std::tan(1.25);
        const double is = truth.focal_px * truth.model.bent_radius(tangent);
        CHECK(c.lens.focal_px * c.lens.model.bent_radius(tangent) == Approx(is).margin(0.6));
    }
}

TEST_CASE("a wide lens that no short polynomial follows gets a model that does", "[calibration]") {
    const LensSolution truth = lens_of(LensModelKind::rational, {0.1, 0, 0, 0.3, 0, 0, 0, 0, 0, 0}, 1450);
    const ModelChoice c = choose(views_of(truth, 0.8, 320), 1450);
    CHECK(c.lens.model.kind() != LensModelKind::radial_tangential);
    CHECK(c.unseen.rms_px < 0.035);
    const ModelChoice rational = choose(views_of(truth, 0.8, 320), 1450, {LensModelKind::rational, 0});
    CHECK(rational.lens.model.kind() == LensModelKind::rational);
    CHECK(rational.unseen.rms_px < 0.035);
}

TEST_CASE("a person can overrule the model", "[calibration]") {
    const std::vector<View> views =
        views_of(lens_of(LensModelKind::radial_tangential, {-0.15, 0.08, 0, 0, 0, 0, 0}, 3600), 0.25, 1000);
    CHECK(choose(views, 3600, {LensModelKind::radial_tangential, 1}).lens.radial_terms == 1);
    CHECK(choose(views, 3600, {LensModelKind::equidistant, 0}).lens.model.kind() == LensModelKind::equidistant);
    CHECK(choose(views, 3600, {LensModelKind::rational, 4}).lens.model.kind() == LensModelKind::rational);
}

TEST_CASE("the chart's bow and stretch are measured where there are any, and only there", "[calibration]") {
    const LensSolution truth = lens_of(LensModelKind::radial_tangential, {-0.15, 0.08, 0, 0, 0, 0, 0}, 3600);
    BoardShape bowed;
    bowed.stretch_y = 0.001;
    bowed.bow_yy = 0.01;
    const ModelChoice c = choose(views_of(truth, 0.25, 1000, 0.02, bowed), 3600);
    CHECK(c.lens.board_free);
    CHECK(c.lens.board.stretch_y == Approx(0.001).margin(2e-4));
    CHECK(c.lens.board.bow_yy == Approx(0.01).margin(1e-3));
    CHECK_FALSE(choose(views_of(truth, 0.25, 1000), 3600).lens.board_free);
}

TEST_CASE("conversion follows the other model closely", "[calibration]") {
    const LensModel narrow(LensModelKind::radial_tangential, {-0.15, 0.05, 0, 0, 0, 0, 0});
    for (const auto& [kind, terms] :
         {std::pair(LensModelKind::equidistant, 4), std::pair(LensModelKind::rational, 4)}) {
        const LensModel other = converted(narrow, kind, terms, 0.5);
        CHECK(other.kind() == kind);
        for (const double r : {0.1, 0.3, 0.5})
            CHECK(other.bent_radius(r) == Approx(narrow.bent_radius(r)).epsilon(1e-4));
    }
}

TEST_CASE("a mapping that folds inside the picture is refused", "[calibration]") {
    const ModelChoice c =
        choose(views_of(lens_of(LensModelKind::radial_tangential, {-0.25, 0.1, 0, 0, 0, 0, 0}, 2000), 0.35, 700), 2000);
    const double corner = Vec2(1200, 800).norm() / c.lens.focal_px;
    CHECK(c.lens.model.bent_radius(std::min(c.lens.model.monotonic_radius(), 5.0)) > corner);
}
