#include "optics/lens_model.h"

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
                              {0.25 * u(random), 0.1 * u(random), 0.02 * u(random), 0.002 * u(random), 0.002 * u(random), 0.004 * u(random), 0.004 * u(random)});
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
    CHECK(model.bend({0.3, -0.2}) == Vec2(0.3, -0.2));
    CHECK(std::isinf(model.monotonic_radius()));
}

TEST_CASE("the radial part has its known values", "[optics]") {
    const LensModel model(LensModelKind::radial_tangential, {-0.2, 0.05, 0.01, 0, 0, 0, 0});
    const double r2 = 0.25;
    const Vec2 bent = model.bend({0.5, 0});
    CHECK(bent.x() == Approx(0.5 * (1 - 0.2 * r2 + 0.05 * r2 * r2 + 0.01 * r2 * r2 * r2)));
    CHECK(bent.y() == Approx(0).margin(1e-15));
}

TEST_CASE("the tangential part has its known values", "[optics]") {
    const LensModel model(LensModelKind::radial_tangential, {0, 0, 0, 0.01, -0.02, 0, 0});
    const double x = 0.3, y = 0.4, r2 = 0.25;
    const Vec2 bent = model.bend({x, y});
    CHECK(bent.x() == Approx(x + 2 * 0.01 * x * y - 0.02 * (r2 + 2 * x * x)));
    CHECK(bent.y() == Approx(y + 0.01 * (r2 + 2 * y * y) - 2 * 0.02 * x * y));
}

TEST_CASE("an axis apart from the perpendicular only moves the centre of symmetry", "[optics]") {
    const LensModel plain(LensModelKind::radial_tangential, {-0.2, 0.1, 0, 0.001, 0.002, 0, 0});
    const LensModel moved(LensModelKind::radial_tangential, {-0.2, 0.1, 0, 0.001, 0.002, 0.01, -0.02});
    const Vec2 axis(0.01, -0.02), p(0.2, 0.3);
    CHECK((moved.bend(p + axis) - axis - plain.bend(p)).norm() < 1e-15);
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
    CHECK(is_one_sentence(sentence_of([] { lens_model_kind("spline-of-tomorrow"); })));
}
