// SPDX-License-Identifier: GPL-3.0-or-later
// The adjustment itself: its hand-made derivatives, and what it does where no lens comes of it.
#include <catch2/catch.hpp>

#include <random>

#include "calibration/next_setting.h"
#include "support/exact_views.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("the derivatives of a corner's residual agree with differences, for each lens model", "[calibration]") {
    std::mt19937 random(11);
    std::uniform_real_distribution<double> u(-1, 1);
    for (const LensModelKind kind : lens_forms())
        for (int trial = 0; trial < 12; ++trial) {
            ViewPoint point;
            point.board_mm = {180 * u(random), 120 * u(random)};
            point.uv = {1200 + 900 * u(random), 800 + 700 * u(random)};
            point.covariance << 4e-4, 1e-4, 1e-4, 9e-4;
            Eigen::VectorXd lens(3 + kind->coefficient_count()), pose(6);
            lens.setZero();
            lens[0] = 1.02;
            lens[1] = 0.003;
            lens[2] = -0.004;
            for (int i = 0; i < kind->radial_count(); ++i) lens[3 + i] = 0.05 * u(random);
            for (int i = 0; i < 4; ++i) lens[3 + kind->radial_count() + i] = 0.01 * u(random);
            Eigen::Vector4d board(0.002, 0.01, -0.02, 0.015);
            // Boards that are not turned too, where the axis of the rotation means nothing.
            const double turn = trial < 2 ? 0 : 0.4;
            pose << turn * u(random), turn * u(random), turn * u(random), 60 * u(random), 50 * u(random),
                800 + 100 * u(random);
            const auto at = [&] { return corner_derivatives(kind, point, 3700, {1232, 820}, lens, board, pose); };
            const auto here = at();
            REQUIRE(here);
            const auto check = [&](auto& parameters, const Eigen::MatrixXd& stated, double step) {
                REQUIRE(stated.cols() == parameters.size());
                const double scale = stated.cwiseAbs().maxCoeff();
                for (int i = 0; i < parameters.size(); ++i) {
                    const double kept = parameters[i];
                    parameters[i] = kept + step;
                    const Vec2 more = at()->residual;
                    parameters[i] = kept - step;
                    const Vec2 less = at()->residual;
                    parameters[i] = kept;
                    INFO(to_string(kind) << ", trial " << trial << ", parameter " << i);
                    CHECK((Vec2((more - less) / (2 * step)) - Vec2(stated.col(i))).norm() < 1e-6 * scale);
                }
            };
            check(lens, here->by_lens, 1e-6);
            check(board, here->by_board, 1e-6);
            check(pose, here->by_pose, 1e-5);
        }
}

TEST_CASE("an adjustment from which no lens comes leaves lens and views as they were", "[calibration]") {
    const LensTruth truth;
    std::vector<View> views = exact_views(truth, truth, 0.01, 3);
    for (ViewPoint& p : views[2].points) p.uv = {std::nan(""), 800};
    LensSolution lens;
    lens.focal_px = 3700;
    lens.centre_px = {1232, 820};
    const Pose before = views[0].pose;
    CHECK_FALSE(adjust(views, lens, exact_geometry().middle(), {}));
    CHECK(lens.focal_px == 3700);
    CHECK(lens.model.coefficients().isZero());
    CHECK(views[0].pose.translation == before.translation);
}

TEST_CASE("the focal length to add next lies in the widest gap, and adding it pays", "[calibration]") {
    const auto zoom = [](const std::vector<double>& focal_mm) {
        Profile p;
        p.geometry = exact_geometry();
        for (const double f : focal_mm) {
            ProfileNode n;
            n.setting = {f, 4, 1};
            n.focal_mm = f;
            n.model = LensModel(LensModelKind::radial_tangential, {-0.1 + 0.12 * std::log(f / 24), 0, 0, 0, 0, 0, 0});
            n.largest_radius_mm = 14;
            p.nodes.push_back(n);
        }
        return p;
    };
    CHECK_FALSE(next_focal_length(zoom({35})));
    const auto next = next_focal_length(zoom({24, 28, 70}));
    REQUIRE(next);
    CHECK(next->below_mm == 28);
    CHECK(next->above_mm == 70);
    CHECK(next->focal_mm > 33);
    CHECK(next->focal_mm < 60);
    CHECK(next->sentence().find("one sigma") != std::string::npos);
    const auto then = next_focal_length(zoom({24, 28, next->focal_mm, 70}));
    REQUIRE(then);
    CHECK(then->sigma_px < 0.5 * next->sigma_px);
}
