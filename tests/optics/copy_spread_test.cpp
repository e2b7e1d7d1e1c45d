// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/copy_spread.h"

#include <catch2/catch.hpp>
#include <random>

#include "optics/compare_profiles.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const PictureGeometry spread_geometry{2400, 1600, 9.5};
constexpr double copies_differ = 2e-3, measured_within = 8e-4;  ///< of the first coefficient, one sigma

ProfileNode model_lens(double more = 0) {
    ProfileNode n;
    n.setting = {35, 4, 1};
    n.focal_mm = 35.4;
    n.model = LensModel(LensModelKind::radial_tangential, {-0.2 + more, 0.2, -0.1, 0, 0, 0, 0});
    n.covariance = Eigen::MatrixXd::Zero(13, 13);
    n.covariance(3, 3) = measured_within * measured_within;
    return n;
}

/// RMS distance over the picture of a lens whose first coefficient is off by this.
double distance_of(double more) { return compare_nodes(model_lens(), model_lens(more), spread_geometry).rms_px; }

/// Copies of the model, each measured with an error.
std::vector<ProfileNode> measured_copies(int n, double spread, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> normal;
    std::vector<ProfileNode> out;
    for (int i = 0; i < n; ++i) out.push_back(model_lens(spread * normal(random) + measured_within * normal(random)));
    return out;
}

}  // namespace

TEST_CASE("the spread of copies is that of the copies alone, whatever their measurements add", "[optics]") {
    for (const int copies : {2, 3, 6}) {
        double squares = 0, measured = 0;
        const int rounds = 150;
        for (int seed = 0; seed < rounds; ++seed) {
            const CopySpread s = spread_of_copies(measured_copies(copies, copies_differ, 100 + seed), spread_geometry);
            // Not the root, which is cut off at nothing: what is without bias is its square before that.
            double sample = 0;
            for (const double d : s.from_others_px) sample += d * d * (copies - 1.0) / (copies * copies);
            squares += (sample - s.measured_px * s.measured_px) / rounds;
            measured += s.measured_px / rounds;
            REQUIRE(s.copies == copies);
            CHECK(s.rms_px == Approx(std::sqrt(std::max(0.0, sample - s.measured_px * s.measured_px))).margin(1e-9));
        }
        const double truth = distance_of(copies_differ);
        CHECK(std::sqrt(squares) == Approx(truth).epsilon(0.15));
        CHECK(measured == Approx(distance_of(measured_within)).epsilon(0.05));
    }
}

TEST_CASE("the interval of a spread holds it in 95 of 100 studios, and is wide with few copies", "[optics]") {
    for (const int copies : {2, 4}) {
        const double truth = distance_of(copies_differ);
        int held = 0;
        double width = 0;
        const int rounds = 400;
        for (int seed = 0; seed < rounds; ++seed) {
            const CopySpread s = spread_of_copies(measured_copies(copies, copies_differ, 7000 + seed), spread_geometry);
            held += s.low_px <= truth && truth <= s.high_px;
            width += (s.high_px - s.low_px) / truth / rounds;
        }
        // Three standard deviations of a count of 400.
        CHECK(held >= 0.95 * rounds - 13);
        CHECK(held <= 0.95 * rounds + 13);
        CHECK(width > (copies == 2 ? 8 : 1));
    }
}

TEST_CASE("copies that do not differ have no spread beside their measurements", "[optics]") {
    int none = 0;
    for (unsigned seed = 0; seed < 60; ++seed) {
        const CopySpread s = spread_of_copies(measured_copies(3, 0, seed), spread_geometry);
        none += s.rms_px < 0.5 * s.measured_px;
        CHECK(s.low_px == Approx(0).margin(distance_of(measured_within)));
    }
    CHECK(none > 25);
}

TEST_CASE("a copy that lies apart is seen by its distance from the others", "[optics]") {
    std::vector<ProfileNode> copies = measured_copies(5, 1e-4, 3);
    copies.push_back(model_lens(0.02));
    const CopySpread s = spread_of_copies(copies, spread_geometry);
    for (std::size_t i = 0; i < 5; ++i) CHECK(s.from_others_px[5] > 4 * s.from_others_px[i]);
    CHECK(s.from_others_px[5] == Approx(distance_of(0.02)).epsilon(0.15));
    CHECK(s.one_for_another_px() == Approx(std::sqrt(2.0) * s.rms_px));
}

TEST_CASE("one copy, and copies of different views, are refused in a sentence", "[optics]") {
    CHECK(error_of([] { spread_of_copies({model_lens()}, spread_geometry); }) == "input");
    CHECK(error_of([] { spread_of_copies({}, spread_geometry); }) == "input");
}

TEST_CASE("the factors of a deviation's interval are those of the tables of chi-square", "[optics]") {
    // Quantiles 0.025 and 0.975 of 1, 3 and 30 degrees of freedom (Abramowitz and Stegun 1964, table 26.8).
    const auto check = [](int freedom, double low, double high) {
        const auto [a, b] = deviation_interval(freedom, 0.95);
        CHECK(a == Approx(std::sqrt(freedom / high)).epsilon(1e-4));
        CHECK(b == Approx(std::sqrt(freedom / low)).epsilon(1e-3));
    };
    check(1, 9.82069e-4, 5.02389);
    check(3, 0.215795, 9.34840);
    check(30, 16.7908, 46.9792);
}
