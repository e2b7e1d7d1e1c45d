// SPDX-License-Identifier: GPL-3.0-or-later
#include <catch2/catch.hpp>

#include <cmath>
#include <functional>

#include "optics/frame_map.h"
#include "optics/placement.h"
#include "optics/uncertainty.h"
#include "support/exact_views.h"
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
    n.red = LateralChromatic{1e-4 * focal, 0, 0, Vec2::Zero(), 0.01};
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

TEST_CASE("between focal lengths displacements are a weighted sum of the measured ones", "[optics]") {
    const Profile p = zoom();
    const double half_way = std::sqrt(35.0 * 70.0);
    const PlacedNode n = node_at(p, {half_way, 4, 1});
    CHECK(n.placement == Placement::between);
    double sum = 0;
    for (const auto& [i, w] : n.parts) sum += w;
    CHECK(sum == Approx(1));
    CHECK(n.node.focal_mm == Approx(half_way * 1.01));
    const auto displacement = [](const ProfileNode& node, const Vec2& s) {
        return Vec2(node.focal_mm * node.model.bend(Vec2(s / node.focal_mm)) - s);
    };
    for (const Vec2& s : {Vec2(4, 2), Vec2(-9, 6), Vec2(11, -7)}) {
        Vec2 mean = Vec2::Zero();
        for (const auto& [i, w] : n.parts) mean += w * displacement(p.nodes[i], s);
        CHECK((displacement(n.node, s) - mean).norm() < 1e-12);
    }
    // At a measured setting there is nothing in doubt, between them there is.
    CHECK(node_at(p, {35, 4, 1}).doubts.empty());
    CHECK_FALSE(n.doubts.empty());
}

TEST_CASE("kriging gives back straight lines and the measured values, and doubts what is far from them", "[optics]") {
    const std::vector<double> x{std::log(24.0), std::log(35.0), std::log(50.0), std::log(70.0)};
    const auto doubt = [&](const Kriged& k, const std::function<double(double)>& y) {
        double out = 0;
        for (const auto& d : k.doubts) {
            double sum = 0;
            for (std::size_t i = 0; i < x.size(); ++i) sum += d[i] * y(x[i]);
            out += sum * sum;
        }
        return std::sqrt(out);
    };
    for (const double at : {std::log(24.0), std::log(30.0), std::log(61.0)}) {
        const Kriged k = krige(x, at);
        double line = 0;
        for (std::size_t i = 0; i < x.size(); ++i) line += k.weights[i] * (3 - 2 * x[i]);
        CHECK(line == Approx(3 - 2 * at).margin(1e-6));
    }
    const auto bent = [](double v) { return std::exp(-v); };
    CHECK(doubt(krige(x, x[1]), bent) < 0.02 * doubt(krige(x, std::log(29.0)), bent));
    CHECK(doubt(krige(x, std::log(100.0)), bent) > doubt(krige(x, std::log(80.0)), bent));
}

namespace {

/// A zoom whose distortion (share of the radius at the third and fifth power, in the corner) runs with the focal length
/// as told.
struct ZoomFamily {
    const char* name;
    std::function<double(double)> third, fifth;

    LensTruth at(double focal) const {
        const PictureGeometry g = exact_geometry();
        const double q = std::pow(focal / g.half_diagonal_mm(), 2);
        LensTruth t;
        t.focal_px = focal / g.pitch_mm();
        t.k1 = third(focal) * q;
        t.k2 = fifth(focal) * q * q;
        return t;
    }
    Profile measured(const std::vector<double>& focals) const {
        Profile p;
        p.geometry = exact_geometry();
        for (const double f : focals) {
            const LensTruth t = at(f);
            ProfileNode n;
            n.setting.focal_mm = n.focal_mm = f;
            n.model = LensModel(LensModelKind::radial_tangential, {t.k1, t.k2, 0, 0, 0, 0, 0});
            n.largest_radius_mm = p.geometry.half_diagonal_mm();
            n.covariance = 1e-16 * Eigen::MatrixXd::Identity(13, 13);
            p.nodes.push_back(n);
        }
        return p;
    }
};

std::vector<ZoomFamily> families() {
    return {{"1/f", [](double f) { return -1.44 / f + 0.02; }, [](double f) { return 0.24 / f; }},
            {"1/f^2", [](double f) { return -34.56 / (f * f) + 0.015; }, [](double f) { return 6.9 / (f * f); }},
            {"f", [](double f) { return -0.05 + 0.06 * (f - 24) / 46; }, [](double f) { return 0.01 * (70 - f) / 46; }},
            {"square of ln f",
             [](double f) {
                 const double x = std::log(f / 24);
                 return -0.05 + 0.09 * x - 0.04 * x * x;
             },
             [](double f) { return 0.015 - 0.01 * std::log(f / 24); }},
            {"a wave",
             [](double f) {
                 const double x = std::log(f / 24);
                 return -0.045 + 0.05 * x + 0.006 * std::sin(4 * x);
             },
             [](double) { return 0.01; }}};
}

}  // namespace

TEST_CASE("four settings over a zoom give less than half a pixel between them, and say how much less", "[optics]") {
    double squares = 0;
    int count = 0;
    for (const ZoomFamily& family : families()) {
        const Profile p = family.measured({24, 35, 50, 70});
        for (const double f : {27.0, 30.0, 42.0, 60.0}) {
            const MappingError e = mapping_error(p, node_at(p, {f, 0, 0}), family.at(f), family.at(f));
            INFO(family.name << " at " << f << " mm: largest " << e.largest_px << " px, " << e.normalised << " sigmas");
            CHECK(e.largest_px < 0.5);
            CHECK(e.normalised < 2.5);
            squares += e.normalised * e.normalised;
            ++count;
        }
    }
    CHECK(std::sqrt(squares / count) > 0.8);
    CHECK(std::sqrt(squares / count) < 1.35);
}

TEST_CASE("with two settings, and beyond the measured ones, the uncertainty is of the size of the error", "[optics]") {
    for (const ZoomFamily& family : families()) {
        const Profile two = family.measured({24, 70}), four = family.measured({24, 35, 50, 70});
        for (const auto& [p, f] :
             {std::pair(&two, 30.0), std::pair(&two, 42.0), std::pair(&four, 20.0), std::pair(&four, 85.0)}) {
            const MappingError e = mapping_error(*p, node_at(*p, {f, 0, 0}), family.at(f), family.at(f));
            INFO(family.name << " at " << f << " mm: RMS " << e.rms_px << " px, " << e.normalised << " sigmas");
            CHECK(e.normalised < 3);
            CHECK(e.normalised > 0.1);
        }
        // It grows with the distance.
        const std::vector<Vec2> corner{{0, 0}};
        CHECK(mapping_sigma_px(four, node_at(four, {16, 0, 0}), four.geometry, corner)[0] >
              mapping_sigma_px(four, node_at(four, {20, 0, 0}), four.geometry, corner)[0]);
    }
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
    CHECK(error_of([&] { node_at(empty, {35, 4, 1}); }) == "input");
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
    p.nodes[1] = node_at(
                     [&] {
                         Profile q = p;
                         q.nodes.erase(q.nodes.begin() + 1);
                         return q;
                     }(),
                     {35, 4, 1})
                     .node;
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
    CHECK(error_of([&] { merged(base, more); }) == "input");
    more = zoom();
    more.camera = "Tarnwick T7";
    CHECK(error_of([&] { merged(base, more); }) == "input");
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
    for (const double s : {3.0, 8.0, 13.0})
        CHECK(a.focal_mm * a.model.bent_radius(s / a.focal_mm) ==
              Approx(b.focal_mm * b.model.bent_radius(s / b.focal_mm)).margin(2e-4));
    CHECK(leave_one_out(mixed)[0].largest_px == Approx(leave_one_out(p)[0].largest_px).margin(0.05));
}
