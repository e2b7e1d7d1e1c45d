// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/stretch.h"

#include <catch2/catch.hpp>

using namespace optrel;

namespace {

const PictureGeometry stretch_geometry{3000, 2000, 12};

PictureView view(double k1, double scale) {
    ProfileNode n;
    n.focal_mm = 35;
    n.model = LensModel(LensModelKind::radial_tangential, {k1, 0, 0, 0, 0, 0, 0});
    return PictureView(FrameMap(n, stretch_geometry, stretch_geometry)).at_scale(scale);
}

}  // namespace

TEST_CASE("the stretch of a scale is the scale, everywhere", "[optics][cost]") {
    for (const NamedPlace& p : named_places()) {
        const auto s = stretch_at(view(0, 1.25), {p.share.x() * 3000, p.share.y() * 2000});
        REQUIRE(s);
        CHECK(s->largest == Approx(1.25));
        CHECK(s->smallest == Approx(1.25));
        CHECK(s->area() == Approx(1.5625));
    }
}

TEST_CASE("undoing barrel stretches along the radius three times as much as across it", "[optics][cost]") {
    const PictureView v = view(-0.05, 1);
    const double f = 35 / 0.012;
    for (const Vec2& place : {Vec2(2700, 1000), Vec2(2500, 1800), Vec2(300, 400)}) {
        const auto s = stretch_at(v, place);
        REQUIRE(s);
        const Vec2 radius = place - stretch_geometry.middle();
        const double q = radius.squaredNorm() / (f * f);
        // r' = r (1 + k1 r^2): along it 1 + 3 k1 r^2, across it 1 + k1 r^2; the frame's samples are spread by the
        // inverse.
        CHECK(s->largest == Approx(1 / (1 - 0.15 * q)).epsilon(1e-5));
        CHECK(s->smallest == Approx(1 / (1 - 0.05 * q)).epsilon(1e-5));
        CHECK(std::abs(s->direction.dot(radius.normalized())) == Approx(1).epsilon(1e-6));
    }
    CHECK_FALSE(stretch_at(view(0.3, 1), {1, 1}));  // empty there
}
