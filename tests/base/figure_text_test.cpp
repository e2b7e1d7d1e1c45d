// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/figure_text.h"

#include <catch2/catch.hpp>

using namespace optrel;

TEST_CASE("a figure shows the decimals of its kind, with its unit", "[base][text]") {
    CHECK(figure_text(figures::reprojection_error, 0.02134) == "0.0213 px");
    CHECK(figure_text(figures::distortion, 1.2) == "+1.200 %");
    CHECK(figure_text(figures::angle, 0.1234) == "0.123°");
    CHECK(number_text(figures::tint, 4) == "+4.0");
    CHECK(pair_text(figures::length, 0.12, -3) == "0.120, -3.000 mm");
    CHECK(change_text(figures::colour_difference, 4.2, 1.1) == "4.20 → 1.10");
}

TEST_CASE("zero has no sign", "[base][text]") {
    CHECK(number_text(figures::shift, -0.0004) == "0.000");
    CHECK(number_text(figures::falloff, 0.0004) == "0.000");
    CHECK(number_text(figures::shift, -0.0006) == "-0.001");
}

TEST_CASE("an uncertainty never rounds to nothing, but for more than two further decimals", "[base][text]") {
    CHECK(figure_text(figures::modulation, 0.3142, 0.012) == "0.314 ± 0.012");
    CHECK(figure_text(figures::modulation, 0.31421, 0.0004) == "0.3142 ± 0.0004");
    CHECK(figure_text(figures::modulation, 0.31421, 0.00000004) == "0.31421 ± 0.00000");
    CHECK(figure_text(figures::exposure, 0.3, 0) == "+0.30 ± 0.00 EV");
    for (const double sigma : {0.9, 0.06, 0.05, 0.0051, 0.005, 0.0006, 0.0005, 0.00051, 0.00005}) {
        CAPTURE(sigma);
        const std::string text = number_text(figures::shift, 1, sigma);
        CHECK(text.find_first_of("123456789", text.find("±")) != std::string::npos);
    }
}
