// SPDX-License-Identifier: GPL-3.0-or-later
#include "scene/noise_terms.h"

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

using namespace optrel;

namespace {

/// Slow changes of light over the picture, leaves in a part of it, and noise of known variance.
SamplePlane plane(Channel channel, double slope, double offset, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> normal;
    SamplePlane out;
    out.channel = channel;
    out.step = 2;
    out.values.create(800, 1200);
    for (int row = 0; row < out.values.rows; ++row)
        for (int i = 0; i < out.values.cols; ++i) {
            double light = 0.02 + 0.6 * i / 1200.0 + 0.1 * std::sin(row / 90.0) * i / 1200.0;
            if (row > 500) light *= 1 + 0.4 * std::sin(0.9 * i + 0.7 * row) * std::sin(0.31 * row);
            out.values(row, i) = static_cast<float>(light + std::sqrt(slope * light + offset) * normal(random));
        }
    return out;
}

}  // namespace

TEST_CASE("noise is told from a frame with slow light and fine texture", "[scene]") {
    for (const auto& [slope, offset] : {std::pair(2e-4, 4e-6), std::pair(2e-5, 1e-7), std::pair(1e-3, 1e-4)})
        for (const unsigned seed : {1u, 2u, 3u}) {
            const auto noise =
                noise_terms({plane(Channel::red, slope, offset, seed), plane(Channel::green, slope, offset, seed + 10),
                             plane(Channel::green, slope, offset, seed + 20)});
            INFO("slope " << slope << ", offset " << offset << ", seed " << seed);
            for (const Channel c : {Channel::red, Channel::green}) {
                const NoiseTerms& n = noise[static_cast<int>(c)];
                CHECK(n.patches > 500);
                for (const double light : {0.05, 0.2, 0.5})
                    CHECK(n.variance(light) == Approx(slope * light + offset).epsilon(0.08));
            }
            CHECK(noise[static_cast<int>(Channel::blue)].patches == 0);
        }
}

TEST_CASE("noise of nothing but clipped or black samples is not told", "[scene]") {
    SamplePlane white;
    white.values = cv::Mat1f(64, 64, 1.f);
    SamplePlane black;
    black.values = cv::Mat1f(64, 64, 0.f);
    for (const NoiseTerms& n : noise_terms({white, black})) CHECK(n.patches == 0);
    CHECK(noise_terms({})[1].patches == 0);
}
