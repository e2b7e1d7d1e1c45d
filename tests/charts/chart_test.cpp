// SPDX-License-Identifier: GPL-3.0-or-later
#include "charts/chart.h"

#include <catch2/catch.hpp>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("a chart's text is understood and written back", "[charts]") {
    const ChartSpec spec = ChartSpec::parse("checker:15x10:30");
    CHECK(spec.squares_x == 15);
    CHECK(spec.squares_y == 10);
    CHECK(spec.square_mm == 30);
    CHECK(spec.corners_x() == 14);
    CHECK(spec.corners_y() == 9);
    CHECK(spec.text() == "checker:15x10:30");
    CHECK(ChartSpec::parse("checker:8x6:24.5").text() == "checker:8x6:24.5");
}

TEST_CASE("texts that are no chart are refused in one sentence", "[charts]") {
    for (const char* bad :
         {"", "checker", "checker:15x10", "checker:15x10:", "checker:15x10:0", "checker:15x10:-3", "checker:3x3:30",
          "checker:15x10:30mm", "checker:9999x10:30", "dots:15x10:30", "checker:15x10:nan", "checker:ax10:30"})
        CHECK(error_of([&] { ChartSpec::parse(bad); }) == "usage");
}
