// SPDX-License-Identifier: GPL-3.0-or-later
#include "scene/straighten.h"

#include <Eigen/Geometry>
#include <catch2/catch.hpp>
#include <random>

#include "support/photographed_wall.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

SceneLine exact(const CameraTurn& turn, const Vec3& from, const Vec3& to, LineSense sense = LineSense::open) {
    SceneLine out;
    const Eigen::Matrix3d r = turn.matrix();
    out.normal = (r.transpose() * from).cross(r.transpose() * to).normalized();
    out.sigma = 1e-4;
    out.length_px = 300;
    out.sense = sense;
    return out;
}

}  // namespace

TEST_CASE("turned cameras are found to a twentieth of a degree, and as well as is said", "[scene]") {
    std::mt19937 random(5);
    std::uniform_real_distribution<double> u(-1, 1);
    double chi = 0, worst = 0;
    constexpr int trials = 4;
    for (int trial = 0; trial < trials; ++trial) {
        const CameraTurn turn{5 * u(random), 12 * u(random), 10 * u(random)};
        const FrameMap through = wall_lens(trial % 2 ? -0.15 : 0);
        const std::vector<SceneLine> lines = lines_in(photograph(Wall(trial), turn, through, 0.01, trial), through);
        const Straightened s = straighten(lines, TurnAngles::roll_pitch_yaw);
        const double off[] = {s.turn.roll_deg - turn.roll_deg, s.turn.pitch_deg - turn.pitch_deg,
                              s.turn.yaw_deg - turn.yaw_deg};
        const double sigma[] = {s.sigma.roll_deg, s.sigma.pitch_deg, s.sigma.yaw_deg};
        for (int k = 0; k < 3; ++k) {
            worst = std::max(worst, std::abs(off[k]));
            chi += std::pow(off[k] / sigma[k], 2) / (3 * trials);
        }
        CHECK(s.lines_used > 30);
        CHECK(s.residual_px < 0.3);
    }
    CAPTURE(worst, chi);
    CHECK(worst < 0.05);
    CHECK(std::sqrt(chi) > 0.6);
    CHECK(std::sqrt(chi) < 1.5);
}

TEST_CASE("fewer angles can be solved, and a portrait frame is straightened as it is held", "[scene]") {
    const FrameMap through = wall_lens(0);
    const CameraTurn turn{2.5, 0, 0};
    const std::vector<SceneLine> rolled = lines_in(photograph(Wall(1), turn, through, 0.01, 1), through);
    CHECK(straighten(rolled, TurnAngles::roll).turn.roll_deg == Approx(2.5).margin(0.05));
    CHECK(straighten(rolled, TurnAngles::roll).sigma.pitch_deg == 0);
    const CameraTurn tilted{-2, 9, 0};
    const Straightened s =
        straighten(lines_in(photograph(Wall(2), tilted, through, 0.01, 2), through), TurnAngles::roll_pitch);
    CHECK(s.turn.pitch_deg == Approx(9).margin(0.05));
    CHECK(s.turn.roll_deg == Approx(-2).margin(0.05));
    CHECK(s.turn.yaw_deg == 0);
    // Orientation 6: what is up in the picture as it is held lies to the left on the sensor. The sensor's picture is
    // that of a camera rolled by a quarter turn.
    const Eigen::Matrix3d quarter = CameraTurn{-90, 0, 0}.matrix();
    const CameraTurn held{1.5, -7, 4};
    const CameraTurn on_sensor = CameraTurn::of(held.matrix() * quarter.transpose());
    const Straightened p =
        straighten(lines_in(photograph(Wall(3), on_sensor, through, 0.01, 3), through, 6), TurnAngles::roll_pitch_yaw);
    CHECK(p.turn.roll_deg == Approx(1.5).margin(0.05));
    CHECK(p.turn.pitch_deg == Approx(-7).margin(0.05));
    CHECK(p.turn.yaw_deg == Approx(4).margin(0.05));
}

TEST_CASE("lines that are neither vertical nor horizontal do not pull", "[scene]") {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> u(-1, 1);
    const CameraTurn turn{-3, 6, 5};
    std::vector<SceneLine> lines;
    for (int i = 0; i < 8; ++i) {
        const double x = 0.4 * u(random), y = 0.3 * u(random);
        lines.push_back(exact(turn, {x, y, 1}, {x, y + 0.2, 1}));
        lines.push_back(exact(turn, {x, y, 1}, {x + 0.2, y, 1}));
        lines.push_back(exact(turn, {x, y, 1}, {x + 0.2, y + 0.3 * u(random), 1.2}));
    }
    const Straightened s = straighten(lines, TurnAngles::roll_pitch_yaw);
    CHECK(s.turn.roll_deg == Approx(-3).margin(0.01));
    CHECK(s.turn.pitch_deg == Approx(6).margin(0.01));
    CHECK(s.turn.yaw_deg == Approx(5).margin(0.01));
}

TEST_CASE("too little to straighten by is said in one sentence", "[scene]") {
    const CameraTurn turn{1, 2, 3};
    const auto vertical = [&](double x, LineSense sense = LineSense::open) {
        return exact(turn, {x, 0, 1}, {x, 0.3, 1}, sense);
    };
    const auto refused = [](const std::vector<SceneLine>& lines, TurnAngles angles) {
        return error_of([&] { straighten(lines, angles); }) == "input";
    };
    CHECK(refused({}, TurnAngles::roll));
    CHECK(refused({vertical(0), vertical(0.2)}, TurnAngles::roll_pitch));
    CHECK(refused({vertical(0), vertical(0.2), vertical(-0.2)}, TurnAngles::roll_pitch_yaw));
    // Marked lines are enough where they are needed, and are told when they contradict each other.
    const Straightened s =
        straighten({vertical(0, LineSense::vertical), vertical(0.3, LineSense::vertical)}, TurnAngles::roll_pitch);
    CHECK(s.turn.pitch_deg == Approx(2).margin(0.05));
    CHECK(refused({vertical(0, LineSense::vertical), vertical(0.3, LineSense::vertical),
                   exact(turn, {0.2, 0, 1}, {0.25, 0.3, 1}, LineSense::vertical)},
                  TurnAngles::roll_pitch));
    CHECK(refused({vertical(0, LineSense::vertical), vertical(0.001, LineSense::vertical)}, TurnAngles::roll_pitch));
    CHECK(error_of([] { turn_angles("pitch"); }) == "usage");
}

TEST_CASE("four corners of a rectangle say how the camera was held", "[scene]") {
    const FrameMap through = wall_lens(-0.1);
    const CameraTurn turn{2, -9, 7};
    const auto seen = [&](double x, double y) {
        const Vec3 d = turn.matrix().transpose() * Vec3(x, y, 1);
        return through.green(through.centre() + through.focal_px() * d.head<2>() / d.z());
    };
    const std::vector<Vec2> corners{seen(-0.2, -0.15), seen(0.25, 0.2), seen(0.25, -0.15), seen(-0.2, 0.2)};
    const auto [found, sigma] = turn_of_rectangle(corners, through, 1);
    CHECK(found.roll_deg == Approx(2).margin(1e-3));
    CHECK(found.pitch_deg == Approx(-9).margin(1e-3));
    CHECK(found.yaw_deg == Approx(7).margin(1e-3));
    // One sigma is that of marks that are a pixel off.
    std::mt19937 random(3);
    std::normal_distribution<double> off(0, 1);
    double roll = 0, pitch = 0, yaw = 0;
    constexpr int rounds = 300;
    for (int round = 0; round < rounds; ++round) {
        std::vector<Vec2> marked = corners;
        for (Vec2& c : marked) c += Vec2(off(random), off(random));
        const CameraTurn t = turn_of_rectangle(marked, through, 1).turn;
        roll += std::pow(t.roll_deg - found.roll_deg, 2) / rounds;
        pitch += std::pow(t.pitch_deg - found.pitch_deg, 2) / rounds;
        yaw += std::pow(t.yaw_deg - found.yaw_deg, 2) / rounds;
    }
    CHECK(std::sqrt(roll) == Approx(sigma.roll_deg).epsilon(0.15));
    CHECK(std::sqrt(pitch) == Approx(sigma.pitch_deg).epsilon(0.15));
    CHECK(std::sqrt(yaw) == Approx(sigma.yaw_deg).epsilon(0.15));
    const auto refused = [&](const std::vector<Vec2>& marked) {
        return error_of([&] { turn_of_rectangle(marked, through, 1); }) == "input";
    };
    CHECK(refused({{100, 100}, {200, 200}, {300, 300}, {100, 300}}));
    CHECK(refused({{100, 100}, {200, 200}, {300, 100}}));
    CHECK(refused({{100, 100}, {100, 100}, {300, 300}, {100, 300}}));
}
