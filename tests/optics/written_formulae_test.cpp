// SPDX-License-Identifier: GPL-3.0-or-later
// The formulae of docs/lens-models.md, evaluated from the page and nothing else, beside what the program computes from
// the same profile.
#include <catch2/catch.hpp>

#include <Eigen/LU>
#include <cmath>
#include <nlohmann/json.hpp>
#include <random>

#include "optics/frame_map.h"
#include "optics/uncertainty.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

using Three = std::array<double, 3>;
using Two = std::array<double, 2>;

Three cross(const Three& a, const Three& b) {
    return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
}

/// "a vector d becomes d + v x d + v x (v x d) / (1 + w_z)"
Three turned(const Three& d, double ax, double ay, double way) {
    const double length = std::sqrt(ax * ax + ay * ay + 1);
    const Three w = {ax / length, ay / length, 1 / length}, v = {way * w[1], -way * w[0], 0};
    const Three once = cross(v, d), twice = cross(v, once);
    return {d[0] + once[0] + twice[0] / (1 + w[2]), d[1] + once[1] + twice[1] / (1 + w[2]),
            d[2] + once[2] + twice[2] / (1 + w[2])};
}

/// B of the page, from the model's name and its numbers as they stand in the file.
Two written_bend(const std::string& model, const std::vector<double>& c, const Three& direction) {
    if (model == "equidistant" || model == "equisolid" || model == "stereographic") {
        const double theta = std::atan2(std::hypot(direction[0], direction[1]), direction[2]),
                     phi = std::atan2(direction[1], direction[0]);
        double rho = theta;
        if (model == "equisolid") rho = 2 * std::sin(theta / 2);
        if (model == "stereographic") rho = 2 * std::tan(theta / 2);
        const double length = rho * (1 + c[0] * std::pow(rho, 2) + c[1] * std::pow(rho, 4) + c[2] * std::pow(rho, 6) +
                                     c[3] * std::pow(rho, 8));
        const double mx = length * std::cos(phi), my = length * std::sin(phi), along = c[4] * mx + c[5] * my,
                     square = mx * mx + my * my;
        return {mx + mx * along + square * c[6], my + my * along + square * c[7]};
    }
    const std::size_t radial = c.size() - 7;
    const double p1 = c[radial], p2 = c[radial + 1], ax = c[radial + 2], ay = c[radial + 3], ox = c[radial + 4],
                 oy = c[radial + 5], p3 = c[radial + 6];
    const Three d = turned(direction, ax, ay, 1);
    const double x = d[0] / d[2] - ox, y = d[1] / d[2] - oy, r2 = x * x + y * y;
    double R = 1 + c[0] * r2 + c[1] * r2 * r2 + c[2] * r2 * r2 * r2;
    if (model == "rational") R /= 1 + c[3] * r2 + c[4] * r2 * r2 + c[5] * r2 * r2 * r2;
    const double t = 1 + p3 * r2, tx = 2 * p1 * x * y + p2 * (r2 + 2 * x * x),
                 ty = p1 * (r2 + 2 * y * y) + 2 * p2 * x * y;
    const Three back = turned({x * R + t * tx + ox, y * R + t * ty + oy, 1}, ax, ay, -1);
    return {back[0] / back[2], back[1] / back[2]};
}

ProfileNode node(LensModelKind kind, unsigned seed, double focal_mm) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> u(-1, 1);
    ProfileNode n;
    n.setting = {focal_mm, 4, 1};
    n.focal_mm = focal_mm * 1.013;
    n.centre_mm = {0.11 * u(random), 0.13 * u(random)};
    LensModel::Coefficients c = LensModel::Coefficients::Zero(kind->coefficient_count());
    for (int i = 0; i < kind->radial_count(); ++i) c[i] = 0.05 * u(random) / (i + 1);
    for (int i = 0; i < kind->decentring_count(); ++i) c[kind->radial_count() + i] = 0.003 * u(random);
    if (!kind->angular()) c[c.size() - 1] = 0.4 * u(random);  // p3
    n.model = LensModel(kind, c);
    for (std::optional<LateralChromatic>* f : {&n.red, &n.blue})
        *f = LateralChromatic{
            4e-4 * u(random), 3e-4 * u(random), 2e-4 * u(random), {1e-3 * u(random), 1e-3 * u(random)}, 0.01};
    Falloff f;
    for (auto& a : f.a) a = {-0.5 + 0.1 * u(random), 0.1 * u(random), 0.05 * u(random), 0.02 * u(random)};
    f.reciprocal = seed % 2;
    f.centre_mm = {0.4 * u(random), -0.3 * u(random)};
    n.falloff = f;
    n.largest_radius_mm = 14;
    return n;
}

Profile profile_with(std::vector<ProfileNode> nodes) {
    Profile p;
    p.id = "written";
    p.name = p.lens = "Aldercroft 24-70mm f/4";
    p.camera = "Brimholt B2";
    p.geometry = {2400, 1600, 9.5};
    p.nodes = std::move(nodes);
    return p;
}

}  // namespace

TEST_CASE("a profile's file and the written formulae give the places and the light that the program computes",
          "[optics]") {
    for (const LensModelKind kind : lens_forms())
        for (unsigned seed = 1; seed <= 4; ++seed) {
            const Profile p = profile_with({node(kind, seed, 24)});
            const json file = json::parse(profile_to_json(p)), n = file.at("nodes").at(0);
            const double pitch = file.at("sensor").at("pitch_um").get<double>() / 1000,
                         width = file.at("sensor").at("width"), height = file.at("sensor").at("height");
            const double H = std::hypot(width, height) / 2 * pitch, F = n.at("focal_mm"), cx = n.at("centre_mm").at(0),
                         cy = n.at("centre_mm").at(1);
            const FrameMap map(p.nodes[0], p.geometry, p.geometry);
            for (const Two& xy : {Two{0.1, 0.05}, Two{-0.38, 0.21}, Two{0.3, -0.28}}) {
                const Two bent = written_bend(n.at("model"), n.at("coefficients"), {xy[0], xy[1], 1});
                const double sx = cx + F * bent[0], sy = cy + F * bent[1];
                const Vec2 ideal(width / 2 + (cx + F * xy[0]) / pitch, height / 2 + (cy + F * xy[1]) / pitch),
                    green = map.green(ideal);
                CHECK(green.x() == Approx(width / 2 + sx / pitch).margin(1e-6));
                CHECK(green.y() == Approx(height / 2 + sy / pitch).margin(1e-6));
                for (const auto& [name, channel] : {std::pair("red", Channel::red), std::pair("blue", Channel::blue)}) {
                    const json& f = n.at(name);
                    const double dx = sx - cx, dy = sy - cy, q = (dx * dx + dy * dy) / (H * H);
                    const double stretch = f.at("c").at(0).get<double>() + f.at("c").at(1).get<double>() * q +
                                           f.at("c").at(2).get<double>() * q * q;
                    const Vec2 at = map.fringe(channel, green);
                    CHECK(at.x() ==
                          Approx(width / 2 + (sx + dx * stretch + f.at("shift_mm").at(0).get<double>()) / pitch)
                              .margin(1e-6));
                    CHECK(at.y() ==
                          Approx(height / 2 + (sy + dy * stretch + f.at("shift_mm").at(1).get<double>()) / pitch)
                              .margin(1e-6));
                }
                const json& light = n.at("falloff");
                const std::vector<double> a = light.at("a").at("green");
                const auto relative = [&](double x, double y) {
                    const double dx = x - light.at("centre_mm").at(0).get<double>(),
                                 dy = y - light.at("centre_mm").at(1).get<double>(), q = (dx * dx + dy * dy) / (H * H);
                    double P = 1, power = 1;
                    for (const double term : a) P += term * (power *= q);
                    return light.at("form") == "reciprocal" ? 1 / P : P;
                };
                CHECK(map.gain(Channel::green, green) == Approx(relative(0, 0) / relative(sx, sy)).epsilon(1e-6));
            }
        }
}

TEST_CASE("the weights between focal lengths are those that are written down", "[optics]") {
    const std::vector<double> focal = {24, 35, 50, 70};
    std::vector<ProfileNode> nodes;
    for (std::size_t i = 0; i < focal.size(); ++i)
        nodes.push_back(node(LensModelKind::radial_tangential, 20 + 2 * i, focal[i]));
    const Profile p = profile_with(nodes);
    for (const double at_mm : {28.0, 41.0, 63.0}) {
        const double x = std::log(at_mm);
        Eigen::MatrixXd K(4, 4), T(4, 2);
        Eigen::VectorXd k(4);
        const auto covariance = [](double a, double b) { return std::exp(-(a - b) * (a - b) / (2 * 0.9 * 0.9)); };
        for (int i = 0; i < 4; ++i) {
            for (int j = 0; j < 4; ++j) K(i, j) = covariance(std::log(focal[i]), std::log(focal[j]));
            k[i] = covariance(std::log(focal[i]), x);
            T.row(i) << 1, std::log(focal[i]);
        }
        const Eigen::MatrixXd inverse = K.inverse(), N = (T.transpose() * inverse * T).inverse();
        const Eigen::VectorXd w = inverse * (k + T * N * (Eigen::Vector2d(1, x) - T.transpose() * inverse * k));
        CHECK(w.sum() == Approx(1));
        const PlacedNode placed = node_at(p, {at_mm, 4, 1});
        REQUIRE(placed.parts.size() == 4);
        for (const auto& [i, weight] : placed.parts) CHECK(weight == Approx(w[i]).margin(1e-6));
        double red = 0;
        for (int i = 0; i < 4; ++i) red += w[i] * nodes[i].red->c0;
        CHECK(placed.node.red->c0 == Approx(red).margin(1e-9));
        double log_ratio = 0;
        for (int i = 0; i < 4; ++i) log_ratio += w[i] * std::log(nodes[i].focal_mm / focal[i]);
        CHECK(placed.node.focal_mm == Approx(at_mm * std::exp(log_ratio)).epsilon(1e-6));
    }
}
