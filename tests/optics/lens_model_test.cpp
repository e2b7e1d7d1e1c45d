// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/lens_model.h"

#include "optics/lens_model_fit.h"

#include <Eigen/Geometry>
#include <catch2/catch.hpp>
#include <random>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("unbending undoes bending", "[optics]") {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> u(-1, 1);
    for (int lens = 0; lens < 30; ++lens) {
        const LensModel model(LensModelKind::radial_tangential,
                              {0.25 * u(random), 0.1 * u(random), 0.02 * u(random), 0.002 * u(random),
                               0.002 * u(random), 0.004 * u(random), 0.004 * u(random)});
        for (int i = 0; i < 50; ++i) {
            const Vec2 xy(0.5 * u(random), 0.4 * u(random));
            if (xy.norm() > 0.95 * model.monotonic_radius()) continue;
            const auto back = model.unbend(model.bend(xy));
            REQUIRE(back);
            CHECK((*back - xy).norm() < 1e-9);
        }
    }
}

TEST_CASE("without coefficients nothing bends", "[optics]") {
    const LensModel model;
    CHECK(model.bend(Vec2{0.3, -0.2}) == Vec2(0.3, -0.2));
    CHECK(std::isinf(model.monotonic_radius()));
}

TEST_CASE("the radial part has its known values", "[optics]") {
    const LensModel model(LensModelKind::radial_tangential, {-0.2, 0.05, 0.01, 0, 0, 0, 0});
    const double r2 = 0.25;
    const Vec2 bent = model.bend(Vec2{0.5, 0});
    CHECK(bent.x() == Approx(0.5 * (1 - 0.2 * r2 + 0.05 * r2 * r2 + 0.01 * r2 * r2 * r2)));
    CHECK(bent.y() == Approx(0).margin(1e-15));
}

TEST_CASE("the tangential part has its known values", "[optics]") {
    const LensModel model(LensModelKind::radial_tangential, {0, 0, 0, 0.01, -0.02, 0, 0});
    const double x = 0.3, y = 0.4, r2 = 0.25;
    const Vec2 bent = model.bend(Vec2{x, y});
    CHECK(bent.x() == Approx(x + 2 * 0.01 * x * y - 0.02 * (r2 + 2 * x * x)));
    CHECK(bent.y() == Approx(y + 0.01 * (r2 + 2 * y * y) - 2 * 0.02 * x * y));
}

TEST_CASE("a lens on a tilted sensor is the straight lens between two turns", "[optics]") {
    const LensModel plain(LensModelKind::radial_tangential, {-0.2, 0.1, 0, 0.001, 0.002, 0, 0});
    const LensModel tilted(LensModelKind::radial_tangential, {-0.2, 0.1, 0, 0.001, 0.002, 0.01, -0.02});
    // The turn by Rodrigues' formula, written anew.
    const Vec3 axis = Vec3(0.01, -0.02, 1).normalized(), about = axis.cross(Vec3::UnitZ());
    const Eigen::Matrix3d turn = Eigen::AngleAxisd(std::asin(about.norm()), about.normalized()).toRotationMatrix();
    CHECK((turn * axis - Vec3::UnitZ()).norm() < 1e-15);
    for (const Vec2& p : {Vec2(0.2, 0.3), Vec2(-0.4, 0.1), Vec2(0, 0), Vec2(0.01, -0.02)}) {
        const Vec3 there = turn * Vec3(p.x(), p.y(), 1);
        const Vec2 bent = plain.bend(there);
        const Vec3 back = turn.transpose() * Vec3(bent.x(), bent.y(), 1);
        CHECK((tilted.bend(p) - Vec2(back.x(), back.y()) / back.z()).norm() < 1e-14);
    }
    CHECK((tilted.bend(Vec2(0.01, -0.02)) - Vec2(0.01, -0.02)).norm() < 1e-15);
}

TEST_CASE("the distortion may be centred beside the perspective", "[optics]") {
    const Vec2 centre(0.003, -0.002);
    const LensModel plain(LensModelKind::radial_tangential, {-0.2, 0.1, 0, 0.001, 0.002, 0, 0});
    const LensModel off(LensModelKind::radial_tangential, {-0.2, 0.1, 0, 0.001, 0.002, 0, 0, centre.x(), centre.y()});
    for (const Vec2& p : {Vec2(0.2, 0.3), Vec2(-0.4, 0.1), Vec2(0, 0)}) {
        CHECK((off.bend(p) - centre - plain.bend(Vec2(p - centre))).norm() < 1e-14);
        CHECK((*off.unbend(off.bend(p)) - p).norm() < 1e-12);
    }
}

TEST_CASE("tangential terms may grow with the radius", "[optics]") {
    const LensModel plain(LensModelKind::radial_tangential, {0, 0, 0, 0.002, -0.001, 0, 0}),
        grown(LensModelKind::radial_tangential, {0, 0, 0, 0.002, -0.001, 0, 0, 0, 0, 0.5});
    for (const Vec2& p : {Vec2(0.2, 0.3), Vec2(-0.4, 0.1), Vec2(0.3, -0.25)}) {
        const double growth = 1 + 0.5 * p.squaredNorm();
        CHECK((grown.bend(p) - p - growth * (plain.bend(p) - p)).norm() < 1e-15);
        CHECK((*grown.unbend(grown.bend(p)) - p).norm() < 1e-12);
    }
    // A list may leave out what came later, and is filled with zeros.
    CHECK(LensModel(LensModelKind::rational, {0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0.001, 0}).coefficients().size() == 13);
    CHECK(error_of([] { LensModel(LensModelKind::equidistant, {0, 0, 0, 0, 0, 0, 0}); }) == "input");
}

TEST_CASE("a polynomial that folds is noticed where it folds", "[optics]") {
    // d/dr (r - r^3 / 3) is zero at r = 1.
    const LensModel model(LensModelKind::radial_tangential, {-1.0 / 3, 0, 0, 0, 0, 0, 0});
    CHECK(model.monotonic_radius() == Approx(1).epsilon(1e-6));
    CHECK_FALSE(model.unbend({0.9, 0}));  // bend() never reaches beyond 2/3
    CHECK(model.unbend({0.6, 0}));
}

TEST_CASE("an unknown model is refused in one sentence", "[optics]") {
    CHECK(lens_model_kind(to_string(LensModelKind::radial_tangential)) == LensModelKind::radial_tangential);
    CHECK(error_of([] { lens_model_kind("spline-of-tomorrow"); }) == "input");
}

TEST_CASE("rational and fisheye models undo themselves too", "[optics]") {
    const LensModel rational(LensModelKind::rational,
                             {0.05, -0.01, 0, 0.3, 0.02, 0, 0.001, -0.0005, 0.002, 0.001, -0.002, 0.003, 0.3});
    std::vector<LensModel> models{rational};
    for (const LensModelKind kind : lens_forms())
        if (kind->angular())
            models.emplace_back(kind,
                                std::initializer_list<double>{-0.04, 0.003, -0.0004, 0, 0.001, -0.0007, 2e-4, 1e-4});
    REQUIRE(models.size() == 4);
    for (double angle = 0; angle < 1.2; angle += 0.1)
        for (double azimuth = 0; azimuth < 6; azimuth += 0.7) {
            const Vec3 ray(std::sin(angle) * std::cos(azimuth), std::sin(angle) * std::sin(azimuth), std::cos(angle));
            for (const LensModel& model : models) {
                if (!model.kind()->angular() && std::tan(angle) > 0.8 * rational.monotonic_radius()) continue;
                INFO(to_string(model.kind()) << " at " << angle);
                const auto back = model.ray(model.bend(ray));
                REQUIRE(back);
                CHECK((*back - ray).norm() < 1e-9);
            }
        }
    // A fisheye sees behind itself; a rectilinear model does not.
    const LensModel& fisheye = models[1];
    const Vec3 behind(std::sin(1.7), 0, std::cos(1.7));
    REQUIRE(fisheye.ray(fisheye.bend(behind)));
    CHECK((*fisheye.ray(fisheye.bend(behind)) - behind).norm() < 1e-9);
    CHECK_FALSE(fisheye.unbend(fisheye.bend(behind)));
}

TEST_CASE("the projections of fisheyes are what their names say", "[optics]") {
    const Vec3 at(std::sin(1.1), 0, std::cos(1.1));
    CHECK(LensModel(LensModelKind::equidistant).bend(at).x() == Approx(1.1));
    CHECK(LensModel(LensModelKind::equisolid).bend(at).x() == Approx(2 * std::sin(0.55)));
    CHECK(LensModel(LensModelKind::stereographic).bend(at).x() == Approx(2 * std::tan(0.55)));
}

TEST_CASE("the radius of every form and its slope belong together, and agree with the formula", "[optics]") {
    for (const LensModelKind kind : lens_forms()) {
        LensModel::Coefficients c = LensModel(kind).coefficients();
        c[0] = -0.06;
        c[1] = 0.013;
        if (kind->radial_count() > 3) c[3] = -0.004;
        for (double tangent = 0.05; tangent < 1.2; tangent += 0.1) {
            INFO(to_string(kind) << " at " << tangent);
            const double t = kind->parameter(tangent);
            double slope = 0;
            const double r = kind->radius(c.data(), t, &slope);
            CHECK(kind->bend(c.data(), Vec3(tangent, 0, 1)).x() == Approx(r));
            CHECK(slope ==
                  Approx((kind->radius(c.data(), t + 1e-6, nullptr) - kind->radius(c.data(), t - 1e-6, nullptr)) / 2e-6)
                      .epsilon(1e-6));
        }
    }
}

TEST_CASE("the equidistant model is what it says", "[optics]") {
    const LensModel fisheye(LensModelKind::equidistant, {-0.05, 0.01, 0, 0, 0, 0, 0, 0});
    const double t = 0.8;
    CHECK(fisheye.bend(Vec3(std::sin(t), 0, std::cos(t))).x() == Approx(t * (1 - 0.05 * t * t + 0.01 * t * t * t * t)));
    CHECK(fisheye.bend(Vec3(0, 0, 2)).norm() == 0);
    CHECK(std::isinf(fisheye.monotonic_radius()));
    CHECK(std::isfinite(LensModel(LensModelKind::equidistant, {-0.4, 0, 0, 0, 0, 0, 0, 0}).monotonic_radius()));
}

TEST_CASE("a rational model ends at its pole", "[optics]") {
    const LensModel model(LensModelKind::rational, {0, 0, 0, -1, 0, 0, 0, 0, 0, 0});  // 1 / (1 - r^2)
    CHECK(model.monotonic_radius() == Approx(1).epsilon(1e-3));
}

TEST_CASE("coefficients must be as many as the model has, and numbers", "[optics]") {
    CHECK(error_of([] { LensModel(LensModelKind::rational, {0, 0, 0, 0, 0, 0, 0}); }) == "input");
    CHECK(error_of([] { LensModel(LensModelKind::radial_tangential, {0, 0, std::nan(""), 0, 0, 0, 0}); }) == "input");
}
