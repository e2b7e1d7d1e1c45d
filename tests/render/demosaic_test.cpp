// SPDX-License-Identifier: GPL-3.0-or-later
// Interpolating a mosaic whose red and blue lie beside green: what colour is left at the edges of what has none.
#include "render/demosaic.h"

#include <catch2/catch.hpp>

#include <cmath>

#include "calibration/lateral_chromatic.h"
#include "render/resample.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const PictureGeometry mosaic_geometry{640, 480, 9.5};
const std::array<std::array<int, 2>, 2> bayer = {{{0, 1}, {1, 2}}};

/// Grey edges of all directions, blurred as a lens blurs: light in the place where green falls.
double light(const Vec2& at) {
    const auto edge = [](double distance) { return 0.5 + 0.5 * std::erf(distance / (0.6 * std::sqrt(2.0))); };
    const Vec2 d = at - mosaic_geometry.middle();
    const double rings = 14 * std::abs(std::remainder(d.norm() / 28, 1.0)) * 2 - 7,
                 spokes = d.norm() * std::sin(6 * std::atan2(d.y(), d.x())) / 6;
    return 0.15 + 0.6 * (d.norm() > 150 ? edge(rings) : edge(spokes));
}

ProfileNode fringed_lens(double corner_px) {
    ProfileNode n;
    n.focal_mm = 6;
    // Red outwards, blue inwards.
    const double stretch = corner_px / (std::hypot(mosaic_geometry.width, mosaic_geometry.height) / 2);
    n.red = LateralChromatic{0.25 * stretch, 0.75 * stretch, 0, Vec2::Zero(), 0};
    n.blue = LateralChromatic{-0.25 * stretch, -0.75 * stretch, 0, Vec2::Zero(), 0};
    return n;
}

/// What a sensor sees through that lens: each channel's light has been moved from where green fell.
cv::Mat1f mosaic_through(const FrameMap& map) {
    cv::Mat1f out(mosaic_geometry.height, mosaic_geometry.width);
    for (int row = 0; row < out.rows; ++row)
        for (int i = 0; i < out.cols; ++i) {
            const Channel channel = static_cast<Channel>(bayer[row & 1][i & 1]);
            const Vec2 here(i + 0.5, row + 0.5);
            Vec2 green = here;
            if (channel != Channel::green)
                for (int k = 0; k < 4; ++k) green += here - map.fringe(channel, green);
            out(row, i) = static_cast<float>(light(green));
        }
    return out;
}

/// 95th percentile of the colour at edges, in percent of their contrast, beyond 0.35 of the diagonal.
double colour_left(const Planes& a) {
    std::vector<double> shares;
    for (int row = 16; row < mosaic_geometry.height - 16; ++row)
        for (int i = 16; i < mosaic_geometry.width - 16; ++i) {
            if ((Vec2(i, row) - mosaic_geometry.middle()).norm() <
                0.35 * std::hypot(mosaic_geometry.width, mosaic_geometry.height))
                continue;
            const float g = a.channel[1](row, i);
            if (g < 0.25f || g > 0.65f) continue;
            shares.push_back(100 * std::max(std::abs(a.channel[0](row, i) - g), std::abs(a.channel[2](row, i) - g)) /
                             0.6);
        }
    std::sort(shares.begin(), shares.end());
    return shares[static_cast<std::size_t>(0.95 * shares.size())];
}

}  // namespace

TEST_CASE("with 1.3 px of lateral colour edges are nearly as clean after correction as without any", "[render]") {
    const FrameMap plain(fringed_lens(0), mosaic_geometry, mosaic_geometry),
        coloured(fringed_lens(1.3), mosaic_geometry, mosaic_geometry);
    const double none = colour_left(demosaic(mosaic_through(plain), bayer, &plain));
    const cv::Mat1f mosaic = mosaic_through(coloured);
    const double corrected = colour_left(demosaic(mosaic, bayer, &coloured));
    const double later =
        colour_left(resample(demosaic(mosaic, bayer), PictureView(coloured), ColourPlanes::as_recorded, Progress()));
    INFO("none " << none << " %, corrected " << corrected << " %, aligned only afterwards " << later << " %");
    CHECK(corrected < 1.3 * none);
    CHECK(corrected < 0.7 * later);
}

TEST_CASE("a grey picture without edges stays grey, whatever the fringe", "[render]") {
    const FrameMap map(fringed_lens(1.3), mosaic_geometry, mosaic_geometry);
    const Planes flat = demosaic(cv::Mat1f(mosaic_geometry.height, mosaic_geometry.width, 0.4f), bayer, &map);
    for (const cv::Mat1f& c : flat.channel) CHECK(cv::norm(c, cv::Mat1f(c.size(), 0.4f), cv::NORM_INF) < 1e-5);
}
