// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/picture_view.h"
#include "base/angle.h"

#include <Eigen/Geometry>
#include <catch2/catch.hpp>
#include <random>

#include "optics/inside_crop.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const PictureGeometry view_geometry{6000, 4000, 6};

FrameMap viewed_lens(double k1, const HandCorrection& hand = {}) {
    ProfileNode n;
    n.focal_mm = 35;
    n.centre_mm = {0.05, -0.08};
    n.model = LensModel(LensModelKind::radial_tangential, {k1, 0.02, 0, 1e-4, -1e-4, 0.001, 0});
    n.red = LateralChromatic{0.0003, 0.0002, 0, {0, 0}, 0};
    n.blue = LateralChromatic{-0.0002, -0.0003, 0, {0, 0}, 0};
    return {n, view_geometry, view_geometry, {}, hand};
}

PictureView view(double k1, CameraTurn turn, Vec2 shift = Vec2::Zero(), double scale = 1,
                 const HandCorrection& hand = {}) {
    return {viewed_lens(k1, hand), {turn.matrix(), shift, scale}};
}

/// By rays of a camera that is turned, in words of its own: where the level camera's ray for q falls.
Vec2 slow_place_in_camera(const FrameMap& map, const CameraTurn& t, const Vec2& q) {
    const double r = t.roll_deg * degree, p = t.pitch_deg * degree, y = t.yaw_deg * degree;
    // The camera's axes, in the level camera's coordinates (x right, y down, z ahead).
    const Vec3 ahead(std::sin(y) * std::cos(p), -std::sin(p), std::cos(y) * std::cos(p));
    const Vec3 right0(std::cos(y), 0, -std::sin(y));  // before the roll, level
    const Vec3 down0 = ahead.cross(right0);
    const Vec3 right = std::cos(r) * right0 + std::sin(r) * down0, down = std::cos(r) * down0 - std::sin(r) * right0;
    const Vec3 ray((q.x() - map.centre().x()) / map.focal_px(), (q.y() - map.centre().y()) / map.focal_px(), 1);
    return map.centre() + map.focal_px() / ray.dot(ahead) * Vec2(ray.dot(right), ray.dot(down));
}

double least_margin(const PictureView& v, const Crop& c, int each) {
    double least = 1e9;
    for (int i = 0; i <= each; ++i) {
        const double t = i / double(each), x = c.left + t * c.width, y = c.top + t * c.height;
        for (const Vec2& p : {Vec2(x, c.top), Vec2(x, c.top + c.height), Vec2(c.left, y), Vec2(c.left + c.width, y)})
            least = std::min(least, v.margin(p));
    }
    return least;
}

}  // namespace

TEST_CASE("a turned camera is undone by a perspective with the focal length", "[optics]") {
    for (const CameraTurn turn : {CameraTurn{3, 0, 0}, {0, 12, 0}, {0, 0, -8}, {-4, 15, 9}}) {
        const PictureView v = view(-0.1, turn);
        for (const Vec2& q : picture_grid(view_geometry, 7, 5)) {
            const auto at = v.ideal(q);
            REQUIRE(at);
            CHECK((*at - slow_place_in_camera(v.lens(), turn, q)).norm() < 1e-6);
            const auto green = v.green(q);
            REQUIRE(green);
            const auto back = v.place(*green);
            REQUIRE(back);
            CHECK((*back - q).norm() < 1e-4);
        }
        const CameraTurn again = CameraTurn::of(turn.matrix());
        CHECK(again.roll_deg == Approx(turn.roll_deg).margin(1e-9));
        CHECK(again.pitch_deg == Approx(turn.pitch_deg).margin(1e-9));
        CHECK(again.yaw_deg == Approx(turn.yaw_deg).margin(1e-9));
    }
}

TEST_CASE("distortion by hand adds to the profile's, in percent of the corner's radius", "[optics]") {
    HandCorrection hand;
    hand.distortion = -0.03;
    hand.red_px = 2;
    hand.blue_px = -1.5;
    const FrameMap plain = viewed_lens(-0.1), with = viewed_lens(-0.1, hand);
    const double corner = 0.5 * std::hypot(6000, 4000);
    for (const Vec2& p : picture_grid(view_geometry, 7, 5)) {
        const Vec2 s = p - plain.centre();
        const double h = s.norm() / corner;
        CHECK((with.green(p) - (plain.green(p) + s * -0.03 * h * h)).norm() < 1e-9);
        const Vec2 g = plain.green(p), r = g - plain.centre();
        CHECK((with.fringe(Channel::red, g) - plain.fringe(Channel::red, g) - r * 2 / corner).norm() < 1e-9);
        CHECK((with.fringe(Channel::blue, g) - plain.fringe(Channel::blue, g) + r * 1.5 / corner).norm() < 1e-9);
        const auto back = with.ideal(with.green(p));
        REQUIRE(back);
        CHECK((*back - p).norm() < 1e-5);
    }
    hand.distortion = -0.3;  // folds beyond the corner of a straight lens
    const FrameMap strong = viewed_lens(0, hand);
    const double folds = corner / std::sqrt(0.9);
    CHECK(strong.reaches(strong.centre() + Vec2(0.97 * folds, 0)));
    CHECK_FALSE(strong.reaches(strong.centre() + Vec2(1.2 * folds, 0)));
}

TEST_CASE("corner light begins at its height and reaches its amount in the corner", "[optics]") {
    HandCorrection hand;
    hand.light_ev = 1.5;
    hand.light_from = 0.4;
    ProfileNode straight;
    straight.focal_mm = 35;
    const FrameMap map(straight, view_geometry, view_geometry, {}, hand);
    REQUIRE(map.has_falloff());
    const double corner = 0.5 * std::hypot(6000, 4000);
    for (const double h : {0.0, 0.3, 0.4, 0.55, 0.8, 1.0}) {
        const double t = std::max(0.0, (h - 0.4) / 0.6);
        CHECK(map.gain(Channel::blue, view_geometry.middle() + Vec2(h * corner, 0)) ==
              Approx(std::exp2(1.5 * t * t)).epsilon(1e-12));
    }
}

TEST_CASE("red and blue by hand reach their amount in the corner, and bow before it", "[optics]") {
    HandCorrection hand;
    hand.red_px = 2;
    hand.blue_px = -1.5;
    ProfileNode straight;
    straight.focal_mm = 35;
    const double corner = 0.5 * std::hypot(6000, 4000);
    for (const double bow : {0.0, 0.4, -0.3}) {
        hand.red_bow_px = bow;
        const FrameMap map(straight, view_geometry, view_geometry, {}, hand);
        const auto out = [&](Channel c, double h) {
            const Vec2 green = map.centre() + Vec2(0.8, -0.6) * (h * corner);
            CHECK((map.fringe(c, green) - green - map.fringe_by_hand(c, green)).norm() < 1e-9);
            return Vec2(0.8, -0.6).dot(map.fringe(c, green) - green);
        };
        for (const double h : {0.0, 0.3, 0.7, 1.0}) {
            CHECK(out(Channel::red, h) == Approx(2 * h - bow * 2.598076 * (h - h * h * h)).margin(1e-6));
            CHECK(out(Channel::blue, h) == Approx(-1.5 * h).margin(1e-9));
            CHECK(out(Channel::green, h) == Approx(0).margin(1e-12));
        }
        CHECK(out(Channel::red, 1 / std::sqrt(3.0)) == Approx(2 / std::sqrt(3.0) - bow).margin(1e-6));
    }
}

TEST_CASE("the fill scale holds with everything by hand at once", "[optics]") {
    HandCorrection hand;
    hand.distortion = 0.02;
    hand.red_px = 3;
    for (const CameraTurn turn : {CameraTurn{2, 0, 0}, {-3, 8, -6}, {0, 14, 0}}) {
        const PictureView v = view(-0.12, turn, {120, -90}, 1, hand);
        const double scale = fill_scale(v);
        const Crop all{0, 0, 6000, 4000};
        CHECK(least_margin(v.at_scale(scale), all, 6000) > -0.05);
        CHECK(least_margin(v.at_scale(scale - 0.1 / 3000), all, 6000) < 0);
    }
    // However far it is moved, there is a scale; where the lens does not reach the middle there is none.
    CHECK(fill_scale(view(0, {0, 0, 0}, {3300, 0})) > 2);
    HandCorrection folded;
    folded.distortion = -0.3;
    const FrameMap narrow = viewed_lens(0, folded);
    CHECK(error_of([&] { fill_scale({narrow, {CameraTurn{0, 60, 0}.matrix(), {0, 0}, 1}}); }) == "input");
}

TEST_CASE("the largest crop inside cannot be made larger by a tenth of a pixel", "[optics]") {
    HandCorrection hand;
    hand.distortion = -0.01;
    std::mt19937 random(3);
    std::uniform_real_distribution<double> u(-1, 1);
    for (int trial = 0; trial < 8; ++trial) {
        const CameraTurn turn{4 * u(random), 10 * u(random), 8 * u(random)};
        const PictureView v =
            view(0.12 * u(random), turn, {100 * u(random), 80 * u(random)}, 1 + 0.1 * u(random), hand);
        for (const double proportion : {0.0, 1.5, 0.8}) {
            const Crop c = largest_inside(v, proportion);
            CHECK(least_margin(v, c, 4000) > -0.02);
            CHECK(c.left > -1e-6);
            CHECK(c.top > -1e-6);
            CHECK(c.left + c.width < 6000 + 1e-6);
            CHECK(c.top + c.height < 4000 + 1e-6);
            if (proportion > 0) CHECK(c.width / c.height == Approx(proportion).epsilon(1e-9));
            // No neighbour is larger: moved anywhere, or of another proportion, and grown by a tenth of a pixel.
            const auto fits = [&](const Crop& k) {
                return k.left >= 0 && k.top >= 0 && k.left + k.width <= 6000 && k.top + k.height <= 4000 &&
                       least_margin(v, k, 400) >= 0;
            };
            for (const double dx : {-2.0, -0.5, 0.0, 0.5, 2.0})
                for (const double dy : {-2.0, -0.5, 0.0, 0.5, 2.0})
                    for (const double stretch : {-2.0, -0.5, 0.0, 0.5, 2.0}) {
                        if (proportion > 0 && stretch != 0) continue;
                        Crop k{c.left + dx, c.top + dy, c.width + stretch, c.height};
                        if (proportion == 0) k.height = c.width * c.height / k.width;  // of the same area
                        const double grow = 0.2;
                        k.left -= grow / 2;
                        k.top -= grow / 2 * k.height / k.width;
                        k.height += grow * k.height / k.width;
                        k.width += grow;
                        CHECK_FALSE(fits(k));
                    }
        }
    }
}

TEST_CASE("a crop is understood or refused with a way out", "[optics]") {
    for (const char* text : {"none", "largest", "largest as frame", "at 10 5 80 90"})
        CHECK(to_text(crop_wish(text)) == text);
    CHECK(crop_wish("largest 3:2").proportion == 1.5);
    for (const char* text :
         {"", "Largest", "largest 3", "largest 3:0", "largest 0:3", "largest 3:2:1", "largest nan:1", "at 1 2 3",
          "at 0 0 0 50", "at 50 0 60 50", "at -1 0 50 50", "at 10,5,80,90", "at 1 2 3 x"})
        CHECK(error_of([&] { crop_wish(text); }) == "input");
}
