// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/light_distribution.h"

#include <catch2/catch.hpp>
#include <numeric>

using namespace optrel;

namespace {

FrameMap dark_cornered_lens(const PictureGeometry& g, double corner_ev) {
    ProfileNode n;
    n.focal_mm = 35;
    HandCorrection hand;
    hand.light_ev = corner_ev;
    return {n, g, g, {}, hand};
}

}  // namespace

TEST_CASE("the light of each channel is told in EV below white, with what is clipped", "[render][cost]") {
    RawPicture raw;
    raw.counts.create(200, 300);
    raw.filter = {{{0, 1}, {1, 2}}};
    raw.black = {{{1000, 1000}, {1000, 1000}}};
    raw.white = 61000;
    const double level[] = {0.2, 0.6, 0.05};
    for (int row = 0; row < 200; ++row)
        for (int i = 0; i < 300; ++i)
            raw.counts(row, i) = static_cast<std::uint16_t>(1000 + 60000 * level[raw.filter.at(row, i)]);
    raw.counts(cv::Rect(0, 0, 30, 200)).setTo(65000);  // a tenth is clipped
    const PictureGeometry g{300, 200, 100};
    const LightDistribution even = light_distribution(raw, dark_cornered_lens(g, 0));
    for (int c = 0; c < 3; ++c) {
        CHECK(even.before.clipped_percent[c] == Approx(10).margin(0.5));
        CHECK(even.after.clipped_percent[c] == Approx(10).margin(0.5));
        const std::vector<double>& p = even.before.percent[c];
        CHECK(std::accumulate(p.begin(), p.end(), 0.0) == Approx(100));
        const int bin =
            static_cast<int>((std::log2(level[c]) - LightDistribution::lowest_ev) / LightDistribution::step_ev);
        CHECK(p[bin] == Approx(90).margin(0.5));
    }
    // Lifting the corners by 2 EV clips the green ones; red and blue have room.
    const LightDistribution lifted = light_distribution(raw, dark_cornered_lens(g, 2));
    CHECK(lifted.before.clipped_percent[1] == Approx(10).margin(0.5));
    CHECK(lifted.after.clipped_percent[1] > 20);
    CHECK(lifted.after.clipped_percent[2] == Approx(10).margin(0.5));

    const LightDistribution rendered =
        light_distribution(cv::Mat3f(100, 100, cv::Vec3f(0.5f, 1.f, 0.f)), dark_cornered_lens({100, 100, 100}, 0));
    CHECK(rendered.before.clipped_percent[0] == 0);
    CHECK(rendered.before.clipped_percent[1] == 100);
    CHECK(rendered.before.percent[2][0] == 100);
}
