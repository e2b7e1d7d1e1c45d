#include <catch2/catch.hpp>

#include "optics/frame_map.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

ProfileNode node(double focal, double aperture, double distance, double k1) {
    ProfileNode n;
    n.setting = {focal, aperture, distance};
    n.focal_mm = focal * 1.01;
    n.centre_mm = {0.01 * focal, 0};
    n.model = LensModel(LensModelKind::radial_tangential, {k1, 0.01, 0, 0, 0, 0, 0});
    Falloff f;
    for (auto& a : f.a) a = {-0.8 / aperture, 0, 0, 0};
    n.falloff = f;
    n.red = Fringe{1e-4 * focal, 0, 0, Vec2::Zero(), 0.01};
    n.largest_radius_mm = 14;
    return n;
}

Profile zoom() {
    Profile p;
    p.name = p.lens = "Aldercroft 24-70mm f/4";
    p.camera = "Brimholt B2";
    p.geometry = {2400, 1600, 9.5};
    p.nodes = {node(24, 4, 1, -0.2), node(24, 8, 1, -0.2), node(35, 4, 1, -0.1), node(70, 4, 1, 0.05)};
    return p;
}

}  // namespace

TEST_CASE("a measured lens setting is returned as it is", "[optics]") {
    const PlacedNode n = node_at(zoom(), {35, 4, 1});
    CHECK(n.placement == Placement::measured);
    CHECK(n.parts == std::vector<std::pair<int, double>>{{2, 1.0}});
    CHECK(n.node.focal_mm == Approx(35.35));
    CHECK(node_at(zoom(), {35.2, 4.1, 1.02}).placement == Placement::measured);
}

TEST_CASE("between focal lengths displacements are linear in the logarithm", "[optics]") {
    const Profile p = zoom();
    const double half_way = std::sqrt(35.0 * 70.0);
    const PlacedNode n = node_at(p, {half_way, 4, 1});
    CHECK(n.placement == Placement::between);
    REQUIRE(n.parts.size() == 2);
    CHECK(n.parts[0].second == Approx(0.5));
    CHECK(n.node.focal_mm == Approx(half_way * 1.01));
    // A displacement in mm at a place in mm is the mean of the two nodes'.
    const auto displacement = [](const ProfileNode& node, const Vec2& s) { return Vec2(node.focal_mm * node.model.bend(Vec2(s / node.focal_mm)) - s); };
    for (const Vec2& s : {Vec2(4, 2), Vec2(-9, 6), Vec2(11, -7)}) {
        const Vec2 mean = 0.5 * (displacement(p.nodes[2], s) + displacement(p.nodes[3], s));
        CHECK((displacement(n.node, s) - mean).norm() < 1e-12);
    }
    CHECK(n.node.red->c0 == Approx(0.5 * (p.nodes[2].red->c0 + p.nodes[3].red->c0)));
}

TEST_CASE("apertures are interpolated in stops, where they were measured", "[optics]") {
    const PlacedNode n = node_at(zoom(), {24, 5.6568542, 1});
    CHECK(n.placement == Placement::between);
    CHECK(n.node.falloff->a[1][0] == Approx(0.5 * (-0.2 - 0.1)));
}

TEST_CASE("outside the measured settings the nearest edge is used and marked", "[optics]") {
    CHECK(node_at(zoom(), {18, 4, 1}).placement == Placement::extrapolated);
    CHECK(node_at(zoom(), {18, 4, 1}).node.model.coefficients()[0] == Approx(-0.2));
    CHECK(node_at(zoom(), {35, 11, 1}).placement == Placement::extrapolated);
    CHECK(node_at(zoom(), {35, 4, 5}).placement == Placement::extrapolated);
    CHECK(to_string(Placement::extrapolated).find("outside") == 0);
}

TEST_CASE("what a frame does not record is taken from what was measured", "[optics]") {
    CHECK(node_at(zoom(), {70, 0, 0}).placement == Placement::measured);
    CHECK(node_at(zoom(), {70, 0, 0}).node.setting.aperture == 4);
    CHECK_NOTHROW(node_at(zoom(), {0, 0, 0}));
    Profile empty = zoom();
    empty.nodes.clear();
    CHECK(is_one_sentence(sentence_of([&] { node_at(empty, {35, 4, 1}); })));
}

TEST_CASE("a node left out tells the error of interpolation", "[optics]") {
    Profile p = zoom();
    p.nodes.erase(p.nodes.begin() + 1);
    const auto left = leave_one_out(p);
    REQUIRE(left.size() == 1);  // only 35 mm lies between others
    CHECK(left[0].node == 1);
    CHECK(left[0].largest_px > 1);
    CHECK(left[0].rms_px < left[0].largest_px);
    // A node that is what its neighbours say has no error.
    p.nodes[1] = node_at([&] { Profile q = p; q.nodes.erase(q.nodes.begin() + 1); return q; }(), {35, 4, 1}).node;
    CHECK(leave_one_out(p)[0].largest_px < 1e-6);
    CHECK(leave_one_out(Profile{}).empty());
}

TEST_CASE("lens settings are added to a profile, or replaced", "[optics]") {
    const Profile base = zoom();
    Profile more = zoom();
    more.nodes = {node(50, 4, 1, 0.01), node(35, 4, 1, -0.11)};
    const Profile both = merged(base, more);
    CHECK(both.nodes.size() == 5);
    CHECK(node_at(both, {35, 4, 1}).node.model.coefficients()[0] == Approx(-0.11));
    CHECK(node_at(both, {50, 4, 1}).placement == Placement::measured);
    more.lens = "another";
    CHECK(is_one_sentence(sentence_of([&] { merged(base, more); })));
    more = zoom();
    more.camera = "Tarnwick T7";
    CHECK(is_one_sentence(sentence_of([&] { merged(base, more); })));
}

TEST_CASE("nodes of different models are interpolated as closely as nodes of one", "[optics]") {
    Profile p = zoom();
    p.nodes.erase(p.nodes.begin() + 1);
    Profile mixed = p;
    // The same lens at 35 mm, told as a quotient: 1 - 0.1 r^2 + 0.01 r^4 is nearly (1 + a r^2) / (1 + b r^2).
    mixed.nodes[1].model = LensModel(LensModelKind::rational, {0, 0, 0, 0.1, 0, 0, 0, 0, 0, 0});
    p.nodes[1].model = LensModel(LensModelKind::radial_tangential, {-0.1, 0.01, -0.001, 0, 0, 0, 0});
    const ProfileNode a = node_at(p, {28, 4, 1}).node, b = node_at(mixed, {28, 4, 1}).node;
    CHECK(b.model.kind() == LensModelKind::rational);
    for (const double s : {3.0, 8.0, 13.0}) CHECK(a.focal_mm * a.model.bent_radius(s / a.focal_mm) == Approx(b.focal_mm * b.model.bent_radius(s / b.focal_mm)).margin(2e-4));
    CHECK(leave_one_out(mixed)[0].largest_px == Approx(leave_one_out(p)[0].largest_px).margin(0.05));
}
