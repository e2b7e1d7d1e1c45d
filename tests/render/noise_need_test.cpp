// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/noise_need.h"

#include <catch2/catch.hpp>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

NoisyBody body_at(double iso) {
    NoisyBody out;
    out.like.filter = SitePattern<int>({{0, 1}, {1, 2}});
    out.like.xyz_to_camera = cv::Matx33d(0.7435, -0.2411, -0.0689, -0.4632, 1.2417, 0.2482, -0.0713, 0.1514, 0.642);
    out.like.has_colour_matrix = true;
    out.like.as_shot_neutral = {0.5, 1, 0.625};
    const double electrons = 42000 * 100 / iso;
    for (std::size_t c = 0; c < 3; ++c) {
        out.terms[2 * c] = 1 / electrons;
        out.terms[2 * c + 1] = 9 / (electrons * electrons);
    }
    return out;
}

NoiseNeed need_at(double iso, const NoiseLimit& limit) {
    return noise_need(body_at(iso), neutral_start(), limit, Progress());
}

}  // namespace

TEST_CASE("the need for noise reduction grows with ISO, and meets its limit", "[render][need]") {
    const NoiseLimit limit{1.2, 1.2, 0, 0.18};
    NoiseNeed before = need_at(100, limit);
    CHECK(before.luminance == 0);
    CHECK(before.colour == 0);
    for (const double iso : {800.0, 3200.0, 12800.0}) {
        INFO("ISO " << iso);
        const NoiseNeed need = need_at(iso, limit);
        CHECK(need.luminance >= before.luminance);
        CHECK(need.colour >= before.colour);
        CHECK(need.without.lightness > before.without.lightness);
        if (need.reached) {
            CHECK(need.with.lightness <= limit.lightness);
            CHECK(need.with.colour <= limit.colour);
        }
        CHECK(need.with.texture <= need.without.texture + 0.02);
        before = need;
    }
    CHECK(before.luminance > 5);
}

TEST_CASE("one step less than the need misses the limit", "[render][need]") {
    const NoiseLimit limit{0.8, 2, 0, 0.18};
    const NoisyBody body = body_at(3200);
    const NoiseNeed need = need_at(3200, limit);
    REQUIRE(need.reached);
    REQUIRE(need.luminance > 0);
    ResolvedFrame fields = neutral_start();
    fields.fields[static_cast<int>(Field::colour_noise)].value.number = need.colour;
    fields.fields[static_cast<int>(Field::luminance_noise)].value.number = need.luminance - 1;
    CHECK(seen_noise(body, fields, limit, Progress()).lightness > limit.lightness);
    fields.fields[static_cast<int>(Field::luminance_noise)].value.number = need.luminance;
    CHECK(seen_noise(body, fields, limit, Progress()).lightness <= limit.lightness);
}

TEST_CASE("a smaller output needs less, sharpening needs more", "[render][need]") {
    const NoiseLimit whole{0.8, 2, 0, 0.18}, small{0.8, 2, 2000, 0.18};
    CHECK(need_at(3200, small).luminance < need_at(3200, whole).luminance);
    ResolvedFrame sharp = neutral_start();
    sharp.fields[static_cast<int>(Field::sharpening_amount)].value.number = 100;
    CHECK(noise_need(body_at(3200), sharp, whole, Progress()).luminance > need_at(3200, whole).luminance);
    // A profile or a turned picture does not move the target.
    ResolvedFrame turned = neutral_start();
    turned.fields[static_cast<int>(Field::roll)].value.number = 20;
    CHECK(noise_need(body_at(3200), turned, whole, Progress()).luminance == need_at(3200, whole).luminance);
}

TEST_CASE("noise of the target is what its terms say", "[render][need]") {
    // Of a monochrome body nothing is interpolated, so the deviation of L* follows from the variance alone.
    NoisyBody body;
    body.like.layout = SampleLayout::monochrome;
    body.like.filter = SitePattern<int>(1);
    body.terms = {1e-4, 1e-6, 1e-4, 1e-6, 1e-4, 1e-6};
    const double grey = 0.18, sigma = std::sqrt(1e-4 * grey + 1e-6);
    const double slope = 116.0 / 3 * std::pow(grey, -2.0 / 3);
    const SeenNoise seen = seen_noise(body, neutral_start(), {}, Progress());
    CHECK(seen.lightness == Approx(slope * sigma).epsilon(0.02));
    CHECK(seen.colour < 0.05);
    CHECK(seen.texture == Approx(1).margin(0.03));
    CHECK(seen.mtf50 == Approx(0.6).margin(0.1));
}

TEST_CASE("limits of noise that are none are refused", "[render][need]") {
    CHECK(error_of([] { need_at(100, {0, 1, 0, 0.18}); }) == "input");
    CHECK(error_of([] { need_at(100, {1, std::nan(""), 0, 0.18}); }) == "input");
    // A size that was mistyped is told, not taken for another.
    for (const int side : {-1, 1, 300, 749}) CHECK(error_of([&] { need_at(100, {1, 1, side, 0.18}); }) == "input");
    CHECK(error_of([] { need_at(100, {1, 1, 750, 0.18}); }) == "none");
}
