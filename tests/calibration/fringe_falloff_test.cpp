// SPDX-License-Identifier: GPL-3.0-or-later
#include <catch2/catch.hpp>
#include <random>

#include "calibration/falloff.h"
#include "calibration/lateral_chromatic.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const PictureGeometry flat_geometry{2400, 1600, 9.5};

FlatField make_flat(Vec2 lamp, Vec2 centre_mm, double noise, unsigned seed, double level = 0.5) {
    std::mt19937 random(seed);
    std::normal_distribution<double> normal(0, noise);
    FlatField flat;
    flat.name = "flat";
    flat.level = level;
    const double half = flat_geometry.half_diagonal_mm();
    for (int c = 0; c < 3; ++c)
        for (int j = 0; j < 27; ++j)
            for (int i = 0; i < 40; ++i) {
                const Vec2 uv(2400 * (i + 0.5) / 40, 1600 * (j + 0.5) / 27), s = flat_geometry.to_sensor(uv);
                const double q = (s - centre_mm).squaredNorm() / (half * half);
                const double relative = 1 + q * (-0.3 - 0.02 * c + q * (0.05 - q * 0.04));
                flat.blocks.push_back(
                    {uv, static_cast<Channel>(c),
                     level * (1 - 0.2 * c) * relative * (1 + lamp.dot(s) / half) * (1 + normal(random))});
            }
    return flat;
}

}  // namespace

TEST_CASE("red and blue displacement are recovered", "[calibration]") {
    std::mt19937 random(2);
    std::normal_distribution<double> noise(0, 0.03 * flat_geometry.pitch_mm());
    const Vec2 centre(0.1, -0.05);
    const double half = flat_geometry.half_diagonal_mm();
    std::vector<ChromaticPoint> points;
    for (const Vec2& uv : picture_grid(flat_geometry, 40, 30)) {
        const Vec2 s = flat_geometry.to_sensor(uv) - centre;
        const double q = s.squaredNorm() / (half * half);
        points.push_back(
            {flat_geometry.to_sensor(uv),
             s * (0.0002 + q * (0.0005 - 0.0001 * q)) + Vec2(0.001, -0.002) + Vec2(noise(random), noise(random)),
             0.03 * flat_geometry.pitch_mm()});
    }
    // One in fifty is far off, as a wrong fit would be.
    for (std::size_t i = 0; i < points.size(); i += 50) points[i].displacement_mm += Vec2(0.05, 0.05);
    const auto f = fit_lateral_chromatic(points, centre, flat_geometry);
    REQUIRE(f);
    CHECK(f->c0 == Approx(0.0002).margin(2e-5));
    CHECK(f->c1 == Approx(0.0005).margin(6e-5));
    CHECK((f->shift_mm - Vec2(0.001, -0.002)).norm() < 1e-4);
    CHECK(f->residual_p95_px < 0.25);
}

TEST_CASE("too few points give no fringe", "[calibration]") {
    CHECK_FALSE(fit_lateral_chromatic(std::vector<ChromaticPoint>(10), Vec2::Zero(), flat_geometry));
    CHECK_FALSE(fit_lateral_chromatic({}, Vec2::Zero(), flat_geometry));
}

TEST_CASE("falloff and lamp come apart when the light was turned", "[calibration]") {
    const Vec2 lamp(0.05, -0.03), centre(0.25, 0.15);
    const std::vector<FlatField> flats{make_flat(lamp, centre, 3e-4, 1), make_flat(lamp, centre, 3e-4, 2, 0.4),
                                       make_flat(-lamp, centre, 3e-4, 3), make_flat(-lamp, centre, 3e-4, 4)};
    const Falloff f = fit_falloff(flats, Vec2(0, 0), flat_geometry, Progress()).falloff;
    CHECK(f.centre_measured);
    CHECK((f.centre_mm - centre).norm() < 0.03);
    const double half = flat_geometry.half_diagonal_mm();
    for (const double r : {0.25, 0.5, 0.75, 1.0})
        for (int c = 0; c < 3; ++c) {
            const double q = r * r, truth = 1 + q * (-0.3 - 0.02 * c + q * (0.05 - q * 0.04));
            CHECK(f.relative(static_cast<Channel>(c), f.centre_mm + Vec2(r * half, 0), half) ==
                  Approx(truth).epsilon(0.003));
        }
    CHECK(f.residual_percent[1] < 0.05);
    CHECK(f.sigma_percent < 0.2);
}

TEST_CASE("with one direction of the light the centre is not claimed", "[calibration]") {
    const Vec2 lamp(0.05, -0.03), optical(0.1, 0.1);
    const Falloff f = fit_falloff({make_flat(lamp, {0.25, 0.15}, 3e-4, 1), make_flat(lamp, {0.25, 0.15}, 3e-4, 2)},
                                  optical, flat_geometry, Progress())
                          .falloff;
    CHECK_FALSE(f.centre_measured);
    CHECK((f.centre_mm - optical).norm() < 1e-9);
}

TEST_CASE("dust on a flat does not bend the falloff", "[calibration]") {
    std::vector<FlatField> flats{make_flat({0.04, 0}, {0, 0}, 3e-4, 1), make_flat({-0.04, 0}, {0, 0}, 3e-4, 2)};
    for (FlatField& flat : flats)
        for (std::size_t i = 0; i < flat.blocks.size(); i += 37) flat.blocks[i].mean *= 0.8;
    const Falloff f = fit_falloff(flats, Vec2(0, 0), flat_geometry, Progress()).falloff;
    const double half = flat_geometry.half_diagonal_mm();
    CHECK(f.relative(Channel::green, Vec2(half, 0), half) == Approx(1 - 0.32 + 0.05 - 0.04).epsilon(0.005));
}

TEST_CASE("a flat without usable blocks is refused in one sentence", "[calibration]") {
    FlatField flat;
    flat.name = "FF9";
    const std::string sentence = sentence_of([&] { fit_falloff({flat}, Vec2(0, 0), flat_geometry, Progress()); });
    CHECK(is_one_sentence(sentence));
    CHECK(sentence.find("FF9") != std::string::npos);
}

TEST_CASE("block means leave clipped blocks and hot pixels out", "[calibration]") {
    MeasuringPicture picture;
    picture.width = 480;
    picture.height = 320;
    cv::Mat1f v(320, 480, 0.5f);
    v(cv::Rect(0, 0, 120, 320)) = 1.0f;
    v(200, 300) = 0.95f;
    picture.planes.push_back({Channel::green, v, 0.5, 0.5, 1});
    const FlatField flat = measure_flat("f", picture);
    CHECK(flat.clipped == Approx(0.25).margin(0.02));
    CHECK(flat.level == Approx(0.5));
    for (const FlatField::Block& b : flat.blocks) CHECK(b.mean == Approx(0.5).epsilon(1e-6));
}

TEST_CASE("each flat is judged by the falloff of all, and its side of the light is told", "[calibration]") {
    const Vec2 lamp(0.05, -0.03);
    std::vector<FlatField> flats{make_flat(lamp, {0, 0}, 3e-4, 1), make_flat(lamp, {0, 0}, 3e-4, 2),
                                 make_flat(-lamp, {0, 0}, 3e-4, 3), make_flat(-lamp, {0, 0}, 3e-4, 4)};
    FalloffFit fit = fit_falloff(flats, Vec2(0, 0), flat_geometry, Progress());
    REQUIRE(fit.flats.size() == 4);
    for (const FlatCheck& c : fit.flats) CHECK(c.is_flat());
    CHECK(fit.flats[0].light_side == fit.flats[1].light_side);
    CHECK(fit.flats[0].light_side == -fit.flats[2].light_side);
    for (FlatField::Block& b : flats[2].blocks)
        if ((b.uv - Vec2(600, 400)).norm() < 300) b.mean *= 0.9;
    fit = fit_falloff(flats, Vec2(0, 0), flat_geometry, Progress());
    CHECK_FALSE(fit.flats[2].is_flat());
    CHECK((fit.flats[2].worst_place - Vec2(600, 400)).norm() < 320);
    CHECK(fit.flats[0].is_flat());
}

TEST_CASE("white squares need enough frames and places", "[calibration]") {
    const FlatField one = make_flat({0.02, 0}, {0, 0}, 1e-3, 1);
    CHECK_FALSE(falloff_from_whites({one, one}, Vec2(0, 0), flat_geometry, Progress()));
    CHECK_FALSE(falloff_from_whites({}, Vec2(0, 0), flat_geometry, Progress()));
    // Each frame with a light of its own: the falloff is what they share.
    const auto f = falloff_from_whites({make_flat({0.1, 0}, {0, 0}, 1e-3, 1), make_flat({-0.05, 0.1}, {0, 0}, 1e-3, 2),
                                        make_flat({0, -0.1}, {0, 0}, 1e-3, 3)},
                                       Vec2(0, 0), flat_geometry, Progress());
    REQUIRE(f);
    CHECK(f->from_chart);
    const double half = flat_geometry.half_diagonal_mm();
    CHECK(f->relative(Channel::green, Vec2(half, 0), half) == Approx(1 - 0.32 + 0.05 - 0.04).epsilon(0.01));
}
