// SPDX-License-Identifier: GPL-3.0-or-later
// Boards as the rig photographs them: what the world does to a chart.
#include <Eigen/LU>
#include <catch2/catch.hpp>
#include <opencv2/aruco/charuco.hpp>
#include <opencv2/imgproc.hpp>

#include "charts/detect.h"
#include "rig/camera.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

struct Photograph {
    rig::Body body;
    rig::Lens lens;
    rig::Board board;
    rig::Placement placement{{3, -4, 2}, {0, 0, 1000}};
    rig::Exposure exposure;

    Photograph() {
        body.width = 1232;
        body.height = 820;
        body.pitch_um = 18.8;
        body.xyz_to_camera = cv::Matx33d(0.7435, -0.2411, -0.0689, -0.4632, 1.2417, 0.2482, -0.0713, 0.1514, 0.642);
        lens.focal_mm = 35;
        exposure.level = 0.74;
    }

    MeasuringPicture take() const {
        const RawPicture raw = rig::photograph(body, lens, exposure, rig::BoardScene(board), placement, Progress());
        MeasuringPicture out;
        out.width = body.width;
        out.height = body.height;
        out.planes = raw.planes();
        return out;
    }
    ChartDetection detect() const {
        return detect_chart(take(), ChartSpec::parse(board.coded ? "coded:15x10:30" : "checker:15x10:30"), Progress());
    }

    /// Where the rig puts an inner corner of the board (green), px.
    Vec2 truth(int column, int row) const {
        const double x = (column + 1 - board.squares_x / 2.0) * board.square_mm,
                     y = (row + 1 - board.squares_y / 2.0) * board.square_mm;
        const cv::Vec3d p = placement.rotation() * cv::Vec3d(x, y, 0) + placement.translation_mm;
        const cv::Vec2d s = lens.find(1, {p[0] / p[2], p[1] / p[2]}) / (body.pitch_um * 1e-3);
        return {s[0] + body.width / 2.0, s[1] + body.height / 2.0};
    }
    /// Errors of the found corners against the nearest true one, and how they compare with their stated sigma.
    struct Errors {
        int corners = 0, wrong = 0;
        double rms = 0, normalised = 0, largest = 0;
    };
    Errors errors(const ChartDetection& d) const {
        Errors e;
        for (const ChartCorner& c : d.corners) {
            Vec2 nearest(1e9, 1e9);
            for (int row = 0; row < 9; ++row)
                for (int column = 0; column < 14; ++column) {
                    const Vec2 t = truth(column, row) - c.green().position;
                    if (t.norm() < nearest.norm()) nearest = t;
                }
            if (nearest.norm() > 1.5) {
                ++e.wrong;
                continue;
            }
            ++e.corners;
            e.rms += nearest.squaredNorm();
            e.largest = std::max(e.largest, nearest.norm());
            e.normalised += nearest.dot(c.green().covariance.inverse() * nearest) / 2;
        }
        e.rms = std::sqrt(e.rms / std::max(1, e.corners));
        e.normalised /= std::max(1, e.corners);
        return e;
    }
};

}  // namespace

TEST_CASE("a board at sixty degrees is found whole", "[charts][rig]") {
    for (const cv::Vec3d& turn : {cv::Vec3d(60, 2, 3), cv::Vec3d(-3, 60, -5)}) {
        Photograph p;
        p.placement = {turn, {0, 0, 900}};
        const auto e = p.errors(p.detect());
        CHECK(e.corners >= 115);
        CHECK(e.wrong == 0);
        CHECK(e.rms < 0.05);
    }
}

TEST_CASE("a fisheye's board is found out to the edge", "[charts][rig]") {
    Photograph p;
    p.lens.projection = rig::Projection::equisolid;
    p.lens.focal_mm = 11.4;
    p.placement = {{2, -3, 1}, {0, 0, 160}};
    const auto e = p.errors(p.detect());
    CHECK(e.corners >= 110);
    CHECK(e.wrong == 0);
    CHECK(e.rms < 0.05);
}

TEST_CASE("where lines are bent, corners at the rim of the part that is seen are as good as others", "[charts][rig]") {
    // Beside a fisheye's axis the board leaves the picture along a curve, so that its last line has a few corners only.
    for (const double aside : {125.0, 133.0, 141.0, 149.0}) {
        Photograph p;
        p.lens.projection = rig::Projection::equisolid;
        p.lens.focal_mm = 11.4;
        p.placement = {{0, 45, 3}, {aside, 0, 141}};
        INFO(aside);
        const auto e = p.errors(p.detect());
        CHECK(e.corners >= 80);
        CHECK(e.wrong == 0);
        CHECK(e.largest < 0.03);
    }
}

TEST_CASE("noise, blur and uneven light leave the corners right, and their stated sigma true", "[charts][rig]") {
    for (const int iso : {100, 1600, 6400}) {
        Photograph p;
        p.exposure.iso = iso;
        p.exposure.blur_px = iso == 1600 ? 2.0 : 0.7;
        p.board.light_ev = {2, 0};
        p.exposure.level = 0.35;
        const auto e = p.errors(p.detect());
        INFO(iso);
        CHECK(e.corners >= 118);
        CHECK(e.wrong == 0);
        // At ISO 100 the rig's own sampling is of the order of the noise.
        CHECK(e.normalised > 0.6);
        CHECK(e.normalised < (iso == 100 ? 2.5 : 1.5));
    }
}

TEST_CASE("a reflection over a part of the board costs that part only", "[charts][rig]") {
    Photograph p;
    p.board.glare_mm = {60, -30, 70};
    const ChartDetection d = p.detect();
    const auto e = p.errors(d);
    CHECK(e.corners >= 95);
    CHECK(e.wrong == 0);
    CHECK(e.rms < 0.1);
}

TEST_CASE("clutter beside the board stays out of it", "[charts][rig]") {
    for (const cv::Vec3d& where : {cv::Vec3d(0, 0, 1300), cv::Vec3d(-150, 60, 1000)}) {
        Photograph p;
        p.board.clutter = true;
        p.placement.translation_mm = where;
        const auto e = p.errors(p.detect());
        CHECK(e.corners >= 80);
        CHECK(e.wrong == 0);
    }
}

TEST_CASE("clipped white squares are said", "[charts][rig]") {
    Photograph p;
    p.exposure.level = 1.6;
    const ChartDetection d = p.detect();
    CHECK(d.clipped > 0.05);
    CHECK(p.errors(d).rms < 0.2);
}

TEST_CASE("shelves without a board give no lattice", "[charts][rig]") {
    Photograph p;
    p.board.clutter = true;
    p.placement.translation_mm = {2000, 1500, 1200};
    CHECK_FALSE(p.detect().found());
}

TEST_CASE("a coded board tells which corner is which, also when turned or cut", "[charts][rig]") {
    for (const double turn : {0.0, 90.0, 180.0, -90.0, 25.0}) {
        Photograph p;
        p.board.coded = true;
        p.placement = {{6, -8, turn}, {70, 40, 1000}};
        const ChartDetection d = p.detect();
        INFO(turn);
        REQUIRE(d.identified);
        CHECK(d.markers >= 20);
        int right = 0;
        for (const ChartCorner& c : d.corners) right += (p.truth(c.column, c.row) - c.green().position).norm() < 0.3;
        CHECK(right == static_cast<int>(d.corners.size()));
    }
}

TEST_CASE("a coded board in a mirror is recognised as such", "[charts][rig]") {
    Photograph p;
    p.board.coded = p.board.mirrored = true;
    const ChartDetection d = p.detect();
    CHECK(d.mirrored);
    CHECK_FALSE(d.identified);
}

TEST_CASE("a plain board shows no markers", "[charts][rig]") {
    const ChartDetection d = Photograph().detect();
    CHECK(d.markers == 0);
    CHECK_FALSE(d.identified);
    CHECK(d.whole_board);
}

TEST_CASE("a coded board of the same layout that a general library drew is read too", "[charts]") {
    for (const auto& [name, share] :
         {std::pair(cv::aruco::DICT_5X5_1000, 0.7f), std::pair(cv::aruco::DICT_4X4_50, 0.75f),
          std::pair(cv::aruco::DICT_6X6_250, 0.6f)}) {
        const auto board = cv::aruco::CharucoBoard::create(9, 6, 1, share, cv::aruco::getPredefinedDictionary(name));
        cv::Mat drawn;
        board->draw(cv::Size(9 * 120, 6 * 120), drawn, 0, 1);
        cv::copyMakeBorder(drawn, drawn, 60, 60, 60, 60, cv::BORDER_CONSTANT, 255);
        cv::GaussianBlur(drawn, drawn, {0, 0}, 1);
        MeasuringPicture picture;
        picture.width = drawn.cols;
        picture.height = drawn.rows;
        cv::Mat1f light;
        drawn.convertTo(light, CV_32F, 0.8 / 255, 0.05);
        for (const Channel c : {Channel::red, Channel::green, Channel::blue})
            picture.planes.push_back({c, light, 0.5, 0.5, 1});
        const ChartDetection d = detect_chart(picture, ChartSpec::parse("coded:9x6:20"), Progress());
        INFO(name);
        REQUIRE(d.identified);
        CHECK(d.corners.size() == 40);
        for (const ChartCorner& c : d.corners)
            CHECK((c.green().position - Vec2(60 + 120 * (c.column + 1), 60 + 120 * (c.row + 1))).norm() < 0.1);
    }
}
