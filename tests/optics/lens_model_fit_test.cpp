// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/lens_model_fit.h"

#include <catch2/catch.hpp>

#include "support/support.h"

using namespace optrel;

TEST_CASE("a model is fitted to its own mapping exactly", "[optics]") {
    const LensModel truth(LensModelKind::radial_tangential, {-0.2, 0.1, -0.05, 0, 0, 0, 0});
    const LensModel fit = fit_radial(
        LensModelKind::radial_tangential, {0, 1, 2}, [&](double t) { return truth.bent_radius(t); }, 0.5);
    for (int k = 0; k < 3; ++k) CHECK(fit.coefficients()[k] == Approx(truth.coefficients()[k]).epsilon(1e-8));
    const LensModel fisheye(LensModelKind::equidistant, {-0.04, 0.003, -0.0002, 0, 0, 0, 0, 0});
    const LensModel again = fit_radial(
        LensModelKind::equidistant, {0, 1, 2, 3}, [&](double t) { return fisheye.bent_radius(t); }, 1.2);
    for (int k = 0; k < 4; ++k) CHECK(again.coefficients()[k] == Approx(fisheye.coefficients()[k]).margin(1e-7));
}

TEST_CASE("terms that are not free stay zero", "[optics]") {
    const LensModel fit = fit_radial(
        LensModelKind::rational, {0, 3}, [](double t) { return t / (1 + 0.3 * t * t); }, 0.9);
    for (const int k : {1, 2, 4, 5, 6, 7, 8, 9}) CHECK(fit.coefficients()[k] == 0);
    CHECK(fit.coefficients()[3] == Approx(0.3).epsilon(1e-6));
    CHECK(fit.coefficients()[0] == Approx(0).margin(1e-6));
}

TEST_CASE("known projections are followed to a fraction of a thousandth", "[optics]") {
    // Equisolid and stereographic fisheyes in the equidistant model, out to 75 degrees.
    const double angle = 1.309;
    const auto worst = [&](const std::function<double(double)>& radius) {
        const LensModel fit = fit_radial(
            LensModelKind::equidistant, {0, 1, 2, 3}, [&](double t) { return radius(std::atan(t)); }, angle);
        double largest = 0;
        for (double theta = 0.01; theta < angle; theta += 0.01)
            largest = std::max(largest, std::abs(fit.bent_radius(std::tan(theta)) - radius(theta)));
        return largest;
    };
    CHECK(worst([](double theta) { return 2 * std::sin(theta / 2); }) < 1e-8);
    CHECK(worst([](double theta) { return 2 * std::tan(theta / 2); }) < 1e-5);
}
