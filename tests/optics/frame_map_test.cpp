// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/frame_map.h"
#include "optics/picture_view.h"
#include "optics/uncertainty.h"

#include <catch2/catch.hpp>

#include "support/support.h"

using namespace optrel;

namespace {

const PictureGeometry map_geometry{2400, 1600, 9.5};

ProfileNode barrel() {
    ProfileNode n;
    n.focal_mm = 35;
    n.centre_mm = {0.1, -0.05};
    n.model = LensModel(LensModelKind::radial_tangential, {-0.2, 0.1, 0, 1e-4, -1e-4, 0.001, 0});
    n.red = LateralChromatic{0.0003, 0.0004, 0.0001, {0.001, -0.002}, 0};
    n.blue = LateralChromatic{-0.0002, -0.0005, 0, {0, 0}, 0};
    Falloff f;
    for (auto& a : f.a) a = {-0.35, 0.05, -0.06};
    f.centre_mm = {0.2, 0.1};
    n.falloff = f;
    return n;
}

ProfileNode pincushion() {
    ProfileNode n = barrel();
    n.model = LensModel(LensModelKind::radial_tangential, {0.15, 0, 0, 0, 0, 0, 0});
    return n;
}

}  // namespace

TEST_CASE("image and sensor coordinates are inverse to each other", "[optics]") {
    CHECK(map_geometry.to_sensor(map_geometry.middle()).norm() == Approx(0).margin(1e-15));
    CHECK(map_geometry.to_sensor({0, 0}).x() == Approx(-11.4));
    const Vec2 p(123.25, 777.5);
    CHECK((map_geometry.to_image(map_geometry.to_sensor(p)) - p).norm() < 1e-9);
}

TEST_CASE("the optical centre stays where it is", "[optics]") {
    ProfileNode n = barrel();
    n.model = LensModel(LensModelKind::radial_tangential, {-0.2, 0.1, 0, 0, 0, 0, 0});
    const FrameMap map(n, map_geometry, map_geometry);
    CHECK((map.green(map.centre()) - map.centre()).norm() < 1e-9);
    CHECK(map.centre().x() == Approx(1200 + 0.1 / 0.0095));
}

TEST_CASE("ideal() undoes green(), and the ray points there", "[optics]") {
    const FrameMap map(barrel(), map_geometry, map_geometry);
    for (const Vec2& p : picture_grid(map_geometry, 9, 7)) {
        const auto back = map.ideal(map.green(p));
        REQUIRE(back);
        CHECK((*back - p).norm() < 1e-6);
        const auto ray = map.ray(map.green(p));
        REQUIRE(ray);
        CHECK(ray->norm() == Approx(1));
        const Vec2 flat = (p - map.centre()) / map.focal_px();
        CHECK((Vec2(ray->x() / ray->z(), ray->y() / ray->z()) - flat).norm() < 1e-9);
    }
}

TEST_CASE("red and blue lie where the ratio says", "[optics]") {
    const FrameMap map(barrel(), map_geometry, map_geometry);
    const Vec2 g(2000, 300), s = g - map.centre();
    const double half_px = 0.5 * std::hypot(2400, 1600), q = s.squaredNorm() / (half_px * half_px);
    const Vec2 expected = g + s * (0.0003 + 0.0004 * q + 0.0001 * q * q) + Vec2(0.001, -0.002) / 0.0095;
    CHECK((map.fringe(Channel::red, g) - expected).norm() < 1e-9);
    CHECK(map.fringe(Channel::green, g) == g);
}

TEST_CASE("the gain is one in the middle and undoes the falloff", "[optics]") {
    const FrameMap map(barrel(), map_geometry, map_geometry);
    CHECK(map.gain(Channel::green, map_geometry.middle()) == Approx(1));
    CHECK(map.gain(Channel::green, {0, 0}) > 1.3);
    const FrameMap half(barrel(), map_geometry, map_geometry, {1, 1, 0.5});
    CHECK(half.gain(Channel::red, {0, 0}) == Approx(std::sqrt(map.gain(Channel::red, {0, 0}))));
    const FrameMap none(barrel(), map_geometry, map_geometry, {1, 1, 0});
    CHECK(none.gain(Channel::red, {0, 0}) == 1);
}

TEST_CASE("strengths scale each component by itself", "[optics]") {
    const Vec2 p(2300, 100);
    const FrameMap full(barrel(), map_geometry, map_geometry), half(barrel(), map_geometry, map_geometry, {0.5, 1, 1}),
        none(barrel(), map_geometry, map_geometry, {0, 0, 1});
    CHECK((none.green(p) - p).norm() < 1e-9);
    CHECK((half.green(p) - (p + 0.5 * (full.green(p) - p))).norm() < 1e-9);
    CHECK(none.fringe(Channel::red, p) == p);
}

TEST_CASE("a profile serves another sensor of the same lens in millimetres", "[optics]") {
    const PictureGeometry small{1200, 800, 9.5};  // half the size, same pitch
    const FrameMap a(barrel(), map_geometry, map_geometry), b(barrel(), map_geometry, small);
    const Vec2 s(3, -2);
    CHECK((map_geometry.to_sensor(a.green(map_geometry.to_image(s))) - small.to_sensor(b.green(small.to_image(s))))
              .norm() < 1e-9);
    CHECK(a.gain(Channel::green, map_geometry.to_image(s)) == Approx(b.gain(Channel::green, small.to_image(s))));
}

TEST_CASE("the fill scale leaves no empty border, and none smaller does", "[optics]") {
    for (const ProfileNode& node : {barrel(), pincushion()}) {
        const FrameMap map(node, map_geometry, map_geometry);
        const double scale = fill_scale(PictureView(map));
        const auto worst = [&](double s) {
            double out = -1e9;
            for (int i = 0; i <= 4000; ++i) {
                const double t = i / 4000.0;
                for (const Vec2& p :
                     {Vec2(t * 2400, 0), Vec2(t * 2400, 1600), Vec2(0, t * 1600), Vec2(2400, t * 1600)}) {
                    const Vec2 ideal = map_geometry.middle() + (p - map_geometry.middle()) / s;
                    for (const Channel c : {Channel::red, Channel::green, Channel::blue}) {
                        const Vec2 q = map.fringe(c, map.green(ideal));
                        out = std::max({out, -q.x(), -q.y(), q.x() - 2400, q.y() - 1600});
                    }
                }
            }
            return out;
        };
        CHECK(worst(scale) < 0.05);
        CHECK(worst(scale - 0.1 / 1200) > 0);  // a tenth of an output pixel less, and it shows
    }
    CHECK(fill_scale(PictureView(FrameMap(pincushion(), map_geometry, map_geometry))) > 1);
    CHECK(fill_scale(PictureView(FrameMap(barrel(), map_geometry, map_geometry))) < 1);
}

TEST_CASE("distortion in percent follows ISO 17850", "[optics]") {
    const ProfileNode n = barrel();
    CHECK(distortion_percent(n, map_geometry, 0) == 0);
    const double r = map_geometry.half_diagonal_mm() / 35;
    CHECK(distortion_percent(n, map_geometry, 1) == Approx(100 * (-0.2 * r * r + 0.1 * r * r * r * r)));
    CHECK(distortion_extreme_percent(n, map_geometry) <= distortion_percent(n, map_geometry, 1) + 1e-12);
}

TEST_CASE("field uncertainty forgets what a homography absorbs", "[optics]") {
    ProfileNode n = barrel();
    const auto grid = picture_grid(map_geometry, 13, 9);
    n.covariance = Eigen::MatrixXd::Zero(13, 13);
    n.covariance(1, 1) = 1e-4;  // only the centre is uncertain, by ten micrometres, one pixel
    double largest = 0;
    for (const double s : field_sigma_px(n, map_geometry, grid)) largest = std::max(largest, s);
    CHECK(largest < 0.05);
    n.covariance.setZero();
    n.covariance(3, 3) = 1e-4;  // k1: that bends
    for (const double s : field_sigma_px(n, map_geometry, grid)) largest = std::max(largest, s);
    CHECK(largest > 0.3);
    n.covariance.resize(0, 0);
    for (const double s : field_sigma_px(n, map_geometry, grid)) CHECK(s == 0);
}
