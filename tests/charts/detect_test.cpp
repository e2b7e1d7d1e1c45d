// SPDX-License-Identifier: GPL-3.0-or-later
#include "charts/detect.h"

#include <Eigen/LU>

#include <catch2/catch.hpp>

#include "support/drawn_board.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const ChartSpec plain = ChartSpec::parse("checker:10x7:10");

/// Where the inner corner (i, j), counted in squares, lies in the picture: the inverse of to_board by Newton's method.
Vec2 corner_of(const DrawnBoard& board, Vec2 squares, Vec2 start) {
    Vec2 p = start;
    for (int k = 0; k < 60; ++k) {
        const double e = 1e-4;
        const Vec2 here = board.to_board(p), du = (board.to_board(p + Vec2(e, 0)) - here) / e,
                   dv = (board.to_board(p + Vec2(0, e)) - here) / e;
        const double det = du.x() * dv.y() - du.y() * dv.x();
        const Vec2 miss = squares - here;
        p += Vec2(dv.y() * miss.x() - dv.x() * miss.y(), -du.y() * miss.x() + du.x() * miss.y()) / det;
    }
    return p;
}

struct Check {
    int corners = 0;
    double rms = 0, largest = 0;
    double normalised = 0;  ///< mean of squared errors over their own variances, per axis
};

/// Sets each detected corner against the drawn one that is nearest.
Check against_truth(const DrawnBoard& board, const ChartDetection& d) {
    Check out;
    for (const ChartCorner& c : d.corners) {
        const Vec2 squares = board.to_board(c.green().position);
        const Vec2 nearest(std::round(squares.x()), std::round(squares.y()));
        REQUIRE(nearest.x() >= 1);
        REQUIRE(nearest.y() >= 1);
        REQUIRE(nearest.x() <= board.nx - 1);
        REQUIRE(nearest.y() <= board.ny - 1);
        const Vec2 error = c.green().position - corner_of(board, nearest, c.green().position);
        out.rms += error.squaredNorm();
        out.largest = std::max(out.largest, error.norm());
        out.normalised += error.dot(c.green().covariance.inverse() * error) / 2;
        ++out.corners;
    }
    if (out.corners) {
        out.rms = std::sqrt(out.rms / out.corners);
        out.normalised /= out.corners;
    }
    return out;
}

}  // namespace

TEST_CASE("a whole board is found with all its corners", "[charts]") {
    DrawnBoard board;
    board.to_board = placed(7, 62, {120, 60});
    const ChartDetection d = detect_chart(board.draw(), plain, Progress());
    CHECK(d.columns * d.rows == 54);
    CHECK(d.whole_board);
    const Check check = against_truth(board, d);
    CHECK(check.corners == 54);
    CHECK(check.rms < 0.01);
    CHECK(d.blur_px == Approx(0.8).epsilon(0.15));
}

TEST_CASE("lattice coordinates follow the board", "[charts]") {
    DrawnBoard board;
    board.to_board = placed(-12, 58, {110, 190});
    const ChartDetection d = detect_chart(board.draw(), plain, Progress());
    REQUIRE(d.corners.size() == 54);
    for (const ChartCorner& a : d.corners)
        for (const ChartCorner& b : d.corners) {
            const Vec2 squares = board.to_board(a.green().position) - board.to_board(b.green().position);
            const int steps = std::abs(a.column - b.column) + std::abs(a.row - b.row);
            CHECK(std::abs(squares.x()) + std::abs(squares.y()) == Approx(steps).margin(0.02));
        }
}

TEST_CASE("a board partly out of the picture counts for what is seen", "[charts]") {
    DrawnBoard board;
    board.to_board = placed(4, 80, {430, 260});
    const ChartDetection d = detect_chart(board.draw(), plain, Progress());
    CHECK_FALSE(d.whole_board);
    const Check check = against_truth(board, d);
    CHECK(check.corners >= 16);
    CHECK(check.rms < 0.01);
}

TEST_CASE("strong tilt is no obstacle", "[charts]") {
    for (const Vec2& perspective : {Vec2(-0.0007, 0), Vec2(0, -0.001), Vec2(-0.0004, 0.0005)}) {
        DrawnBoard board;
        board.to_board = placed(3, 72, {120, 80}, perspective);
        const Check check = against_truth(board, detect_chart(board.draw(), plain, Progress()));
        INFO(perspective.transpose());
        CHECK(check.corners >= 50);
        CHECK(check.largest < 0.06);
    }
}

TEST_CASE("strong barrel distortion is no obstacle", "[charts]") {
    DrawnBoard board;
    const auto flat = placed(2, 70, {100, 50});
    board.to_board = [=](Vec2 p) {
        const Vec2 q = p - Vec2(450, 300);
        return flat(Vec2(450, 300) + q * (1 + 1.1e-6 * q.squaredNorm()));
    };
    const Check check = against_truth(board, detect_chart(board.draw(), plain, Progress()));
    CHECK(check.corners >= 50);
    CHECK(check.rms < 0.02);
}

TEST_CASE("the reported uncertainty of corners is the real one", "[charts]") {
    DrawnBoard board;
    board.to_board = placed(9, 62, {130, 50});
    board.noise = 0.02;
    const Check check = against_truth(board, detect_chart(board.draw(), plain, Progress()));
    CHECK(check.corners == 54);
    CHECK(check.rms < 0.05);
    CHECK(check.normalised > 0.6);
    CHECK(check.normalised < 1.6);
}

TEST_CASE("blur and uneven light are no obstacle", "[charts]") {
    DrawnBoard board;
    board.to_board = placed(5, 62, {130, 60});
    board.blur = 2;
    board.noise = 0.01;
    board.light = [](Vec2 p) { return std::exp2(-2 * p.x() / 900); };
    const Check check = against_truth(board, detect_chart(board.draw(), plain, Progress()));
    CHECK(check.corners >= 52);
    CHECK(check.rms < 0.06);
}

TEST_CASE("a picture without a chart gives none", "[charts]") {
    DrawnBoard board;
    SECTION("an even surface") {
        board.to_board = [](Vec2) { return Vec2(-9, -9); };
        board.noise = 0.02;
    }
    SECTION("stripes") {
        board.to_board = [](Vec2 p) { return Vec2(std::fmod(p.x() / 40, 2), 0.5); };
    }
    SECTION("rings") {
        board.to_board = [](Vec2 p) { return Vec2(std::fmod((p - Vec2(450, 300)).norm() / 35, 2), 0.5); };
    }
    SECTION("dots") {
        board.to_board = [](Vec2 p) {
            return Vec2(std::hypot(std::fmod(p.x(), 60) - 30, std::fmod(p.y(), 60) - 30) < 14 ? 0.5 : 1.5, 0.5);
        };
    }
    CHECK_FALSE(detect_chart(board.draw(), plain, Progress()).found());
}

TEST_CASE("clutter beside the board does not extend it", "[charts]") {
    DrawnBoard board;
    board.to_board = placed(0, 50, {60, 60});
    board.clutter = [](Vec2 p, double& value) {
        if (p.x() < 640) return false;
        value = (static_cast<int>(p.x() / 13) * 7 + static_cast<int>(p.y() / 29) * 13) % 5 < 2 ? 0.7 : 0.1;
        return true;
    };
    const Check check = against_truth(board, detect_chart(board.draw(), plain, Progress()));
    CHECK(check.corners >= 48);
}

TEST_CASE("a specimen sheet holds no chart", "[charts]") {
    for (const char* name : {"SP0001", "SP0003"})
        CHECK_FALSE(detect_chart(read_for_measuring(rig_frame(name)), plain, Progress()).found());
}

TEST_CASE("detection can be cancelled", "[charts]") {
    DrawnBoard board;
    board.to_board = placed(0, 60, {100, 60});
    Progress progress;
    progress.cancel();
    const MeasuringPicture picture = board.draw();
    CHECK_THROWS_AS(detect_chart(picture, plain, progress), Cancelled);
}

TEST_CASE("red and blue corners are measured at their own places", "[charts]") {
    DrawnBoard board;
    board.to_board = placed(6, 62, {120, 60});
    MeasuringPicture picture = board.draw();
    DrawnBoard shifted = board;
    const auto to_board = board.to_board;
    shifted.to_board = [=](Vec2 p) { return to_board(p - Vec2(0.31, -0.17)); };
    picture.planes[0].values = shifted.draw().planes[0].values;
    const ChartDetection d = detect_chart(picture, plain, Progress());
    REQUIRE(d.corners.size() == 54);
    Vec2 mean = Vec2::Zero(), blue = Vec2::Zero();
    for (const ChartCorner& c : d.corners) {
        REQUIRE(c.channel[0].ok);
        mean += (c.channel[0].position - c.green().position) / d.corners.size();
        blue += (c.channel[2].position - c.green().position) / d.corners.size();
    }
    CHECK((mean - Vec2(0.31, -0.17)).norm() < 0.005);
    CHECK(blue.norm() < 1e-4);
}
