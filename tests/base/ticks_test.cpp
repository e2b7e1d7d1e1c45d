// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/ticks.h"

#include <catch2/catch.hpp>

using namespace optrel;

TEST_CASE("ranges end at round figures and hold what they are made for", "[base]") {
    const RoundRange r = round_range(-0.013, 0.0302, 0, 5);
    CHECK(r.low <= -0.013);
    CHECK(r.high > 0.0302 - 0.021 * r.step);
    CHECK(r.tick(r.count() - 1) == Approx(r.high));
    CHECK(r.step == Approx(0.01));
    CHECK(round_range(-1.1, 0.004, 0, 4).high == 0);  // a band that reaches above zero by a hair
    // Noise does not fill a plot.
    const RoundRange quiet = round_range(0, 1e-4, 0.5, 4);
    CHECK(quiet.high - quiet.low >= 0.5);
    CHECK(round_range(0, 1, 0, 1).count() == 2);
}

TEST_CASE("a tick's figure has the decimals of its step, and zero has no sign", "[base]") {
    CHECK(tick_text(0.30000000000000004, 0.1) == "0.3");
    CHECK(tick_text(-1e-17, 0.5) == "0.0");
    CHECK(tick_text(20, 5) == "20");
    CHECK(tick_step(1, 4) == Approx(0.5));
    CHECK(round_below(7.3) == Approx(5));
}
