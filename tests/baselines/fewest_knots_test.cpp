// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/fewest_knots.h"

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

using namespace optrel;

namespace {

using Points = std::vector<std::pair<double, double>>;

double on_ramp(const Points& knots, double iso) {
    if (iso <= knots.front().first) return knots.front().second;
    for (std::size_t i = 1; i < knots.size(); ++i)
        if (iso <= knots[i].first) {
            const double t = std::log2(iso / knots[i - 1].first) / std::log2(knots[i].first / knots[i - 1].first);
            return knots[i - 1].second + t * (knots[i].second - knots[i - 1].second);
        }
    return knots.back().second;
}

}  // namespace

TEST_CASE("a straight ramp has two knots, a constant one, a bend three", "[baselines][knots]") {
    CHECK(fewest_knots({{100, 7}, {200, 7.2}, {400, 6.9}, {800, 7}}, 0.05, 0) == Points{{100, 7}});
    CHECK(fewest_knots({{100, 10}, {200, 20}, {400, 30}, {800, 40}}, 0.05, 0) == Points{{100, 10}, {800, 40}});
    CHECK(fewest_knots({{100, 0}, {200, 0}, {400, 0}, {800, 20}, {1600, 40}}, 0.05, 0.5) ==
          Points{{100, 0}, {400, 0}, {1600, 40}});
    CHECK(fewest_knots({{100, 3}}, 0.05, 0) == Points{{100, 3}});
    CHECK(fewest_knots({}, 0.05, 0).empty());
}

TEST_CASE("no point is missed by more than the tolerance", "[baselines][knots]") {
    std::mt19937 random(7);
    for (int trial = 0; trial < 200; ++trial) {
        Points points;
        double value = 0;
        for (double iso = 100; iso <= 51200; iso *= 2) {
            value += std::uniform_real_distribution<double>(0, 15)(random);
            points.emplace_back(iso, std::round(value));
        }
        const Points knots = fewest_knots(points, 0.05, 1);
        CHECK(knots.size() <= points.size());
        for (const auto& [iso, wanted] : points)
            CHECK(std::abs(on_ramp(knots, iso) - wanted) <= std::max(1.0, 0.05 * wanted) + 1e-6);
    }
}
