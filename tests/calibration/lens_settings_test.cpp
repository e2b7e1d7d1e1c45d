// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/lens_settings.h"

#include <catch2/catch.hpp>

#include "support/support.h"

using namespace optrel;

TEST_CASE("settings are one where bodies only round differently", "[calibration]") {
    CHECK(group_settings({{35, 4, 1}, {35.2, 4, 1}, {34.9, 4.05, 1.02}}) == std::vector<int>{0, 0, 0});
    CHECK(group_settings({{24, 4, 1}, {70, 4, 1}, {24, 8, 1}, {24, 4, 1}}) == std::vector<int>{0, 1, 2, 0});
    CHECK(group_settings({}).empty());
}

TEST_CASE("a focus distance that jitters is one, one that was set anew is another", "[calibration]") {
    CHECK(group_settings({{35, 4, 0.95}, {35, 4, 1.0}, {35, 4, 1.06}, {35, 4, 1.12}}) == std::vector<int>{0, 0, 0, 0});
    CHECK(group_settings({{35, 4, 0.6}, {35, 4, 2.0}, {35, 4, 0.61}}) == std::vector<int>{0, 1, 0});
    // Far away a metre is nothing.
    CHECK(group_settings({{35, 4, 20}, {35, 4, 30}}) == std::vector<int>{0, 0});
}

TEST_CASE("what is not recorded goes with what agrees in the rest", "[calibration]") {
    CHECK(group_settings({{35, 4, 1}, {35, 0, 0}, {0, 0, 0}}) == std::vector<int>{0, 0, 0});
    const std::vector<int> two = group_settings({{24, 4, 1}, {70, 4, 1}, {70, 0, 0}});
    CHECK(two[2] == two[1]);
    CHECK(group_settings({{0, 0, 0}, {0, 0, 0}}) == std::vector<int>{0, 0});
}

TEST_CASE("the typical setting is the median of what is known", "[calibration]") {
    const LensSetting s = typical_setting({{35, 4, 1}, {35, 0, 0}, {36, 4, 2}, {35, 5.6, 0}});
    CHECK(s.focal_mm == 35);
    CHECK(s.aperture == 4);
    CHECK(s.distance_m == 2);
    CHECK(typical_setting({}).focal_mm == 0);
    CHECK(to_string(LensSetting{35, 5.6, 1.2}) == "35 mm f/5.6 1.2 m");
    CHECK(to_string(LensSetting{}) == "setting not recorded");
}
