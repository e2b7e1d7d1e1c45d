// SPDX-License-Identifier: GPL-3.0-or-later
#include "scene/patch_figures.h"

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "optics/coordinates.h"

using namespace optrel;

namespace {

/// A disc of a brightness with a blurred rim, its colours moved against one another.
std::array<cv::Mat1f, 3> disc(Vec2 red, Vec2 blue, double blur, double noise) {
    std::array<cv::Mat1f, 3> out;
    std::mt19937 random(1);
    std::normal_distribution<double> n(0, noise);
    for (int c = 0; c < 3; ++c) {
        out[c].create(96, 128);
        const Vec2 moved = std::array<Vec2, 3>{red, Vec2::Zero(), blue}[c];
        for (int y = 0; y < 96; ++y)
            for (int x = 0; x < 128; ++x) {
                const double r = (Vec2(x, y) - Vec2(63, 47) - moved).norm() - 25;
                out[c](y, x) = static_cast<float>(0.1 + 0.25 * std::erfc(r / (blur * std::sqrt(2.0))) + n(random));
            }
    }
    return out;
}

PatchPair pair(const char* name, double before, double after, double width = 2) {
    PatchPair p;
    p.name = name;
    p.before.edges = p.after.edges = p.before.steps = p.after.steps = 100;
    p.before.red_px = before;
    p.after.red_px = after;
    p.before.width_px = 2;
    p.after.width_px = width;
    return p;
}

}  // namespace

TEST_CASE("a patch tells how far its colours lie apart and how wide its edges are", "[scene]") {
    for (const double blur : {0.8, 1.2, 1.8}) {
        const PatchFigures f = patch_figures(disc({0.6, -0.3}, {-1.1, 0.4}, blur, 0.004));
        CHECK(f.edges > 50);
        CHECK(f.red_px == Approx(std::hypot(0.6, 0.3)).margin(0.04));
        CHECK(f.blue_px == Approx(std::hypot(1.1, 0.4)).margin(0.05));
        CHECK(f.width_px == Approx(2.563 * blur).epsilon(0.12));
    }
    const PatchFigures aligned = patch_figures(disc({0, 0}, {0, 0}, 1, 0.004));
    CHECK(aligned.red_px < 0.03);
    CHECK(aligned.blue_px < 0.03);
}

TEST_CASE("a patch without an edge says so", "[scene]") {
    std::array<cv::Mat1f, 3> even;
    std::mt19937 random(1);
    std::normal_distribution<float> n(0.3f, 0.01f);
    for (cv::Mat1f& c : even) {
        c.create(96, 128);
        for (float& v : c) v = n(random);
    }
    CHECK(patch_figures(even).edges == 0);
    CHECK(patch_figures(even).light == Approx(0.3).epsilon(0.01));
    std::array<cv::Mat1f, 3> tiny;
    for (cv::Mat1f& c : tiny) c = cv::Mat1f(4, 4, 0.5f);
    CHECK(patch_figures(tiny).edges == 0);
}

TEST_CASE("the verdict names where a correction does harm", "[scene]") {
    CHECK(verdict({pair("left edge", 1, 0.1), pair("right edge", 0.9, 0.1)}).find("nowhere further apart") !=
          std::string::npos);
    const std::string mixed = verdict({pair("left edge", 1, 0.1), pair("right edge", 0.1, 0.9)});
    CHECK(mixed.find("helps in the left edge") != std::string::npos);
    CHECK(mixed.find("harm in the right edge") != std::string::npos);
    CHECK(verdict({pair("left edge", 0.1, 0.9)}).find("does harm") != std::string::npos);
    CHECK(verdict({pair("left edge", 0.1, 0.1, 3)}).find("wider afterwards in the left edge") != std::string::npos);
    CHECK(verdict({}).find("No patch") == 0);
}
