// SPDX-License-Identifier: GPL-3.0-or-later
// Opcodes evaluated from their bytes by a reader of its own, written from the specification.
#include "frames/opcodes.h"

#include <catch2/catch.hpp>
#include <cmath>
#include <cstring>
#include <random>

#include "exchange/opcode_fit.h"
#include "support/sample_profile.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

constexpr PictureGeometry picture{6000, 4000, 6};

std::uint32_t big32(const std::string& s, std::size_t at) {
    std::uint32_t v = 0;
    for (int i = 0; i < 4; ++i) v = v << 8 | static_cast<unsigned char>(s.at(at + i));
    return v;
}
double big64(const std::string& s, std::size_t at) {
    const std::uint64_t bits = std::uint64_t(big32(s, at)) << 32 | big32(s, at + 4);
    double v;
    std::memcpy(&v, &bits, 8);
    return v;
}
float bigf(const std::string& s, std::size_t at) {
    const std::uint32_t bits = big32(s, at);
    float v;
    std::memcpy(&v, &bits, 4);
    return v;
}

/// WarpRectilinear and WarpFisheye at a sample (its middle at whole numbers), of the first opcode of a list.
void slow_warp(const std::string& list, int plane, double x, double y, double& x_out, double& y_out) {
    const std::uint32_t id = big32(list, 4), planes = big32(list, 20);
    const std::size_t at = 24, each = id == 1 ? 6 : 4;
    const double cx = big64(list, at + planes * each * 8) * (picture.width - 1),
                 cy = big64(list, at + planes * each * 8 + 8) * (picture.height - 1);
    double mx = cx, my = cy;
    if (picture.width - 1 - cx > mx) mx = picture.width - 1 - cx;
    if (picture.height - 1 - cy > my) my = picture.height - 1 - cy;
    const double m = std::sqrt(mx * mx + my * my), dx = (x - cx) / m, dy = (y - cy) / m,
                 r = std::sqrt(dx * dx + dy * dy);
    double k[6] = {};
    for (std::size_t i = 0; i < each; ++i) k[i] = big64(list, at + (plane * each + i) * 8);
    double f, tx = 0, ty = 0;
    if (id == 1) {
        f = k[0] + k[1] * r * r + k[2] * std::pow(r, 4) + k[3] * std::pow(r, 6);
        tx = k[4] * 2 * dx * dy + k[5] * (r * r + 2 * dx * dx);
        ty = k[5] * 2 * dx * dy + k[4] * (r * r + 2 * dy * dy);
    } else {
        const double theta = std::atan(r);
        f = (k[0] * theta + k[1] * std::pow(theta, 3) + k[2] * std::pow(theta, 5) + k[3] * std::pow(theta, 7)) / r;
    }
    x_out = cx + m * (f * dx + tx);
    y_out = cy + m * (f * dy + ty);
}

double slow_vignette(const std::string& list, double x, double y) {
    const double cx = big64(list, 20 + 40) * (picture.width - 1), cy = big64(list, 20 + 48) * (picture.height - 1);
    const double mx = std::max(cx, picture.width - 1 - cx), my = std::max(cy, picture.height - 1 - cy);
    const double r2 = ((x - cx) * (x - cx) + (y - cy) * (y - cy)) / (mx * mx + my * my);
    double gain = 1;
    for (int i = 0; i < 5; ++i) gain += big64(list, 20 + 8 * i) * std::pow(r2, i + 1);
    return gain;
}

/// A node with all that lenses have: distortion, tangential terms, lateral colour, falloff of its own for each plane.
ProfileNode node(double centre_off_mm, double falloff_apart) {
    ProfileNode n;
    n.focal_mm = 35;
    n.centre_mm = {centre_off_mm, -centre_off_mm / 2};
    n.model = LensModel(LensModelKind::radial_tangential, {-0.22, 0.11, -0.03, 3e-4, -2e-4, 0, 0});
    n.red.emplace();
    n.red->c0 = 4e-4;
    n.red->c1 = -3e-4;
    n.blue.emplace();
    n.blue->c0 = -5e-4;
    n.blue->c1 = 2e-4;
    n.falloff.emplace();
    for (int c = 0; c < 3; ++c) n.falloff->a[c] = {-0.5 - falloff_apart * (c - 1), 0.12, 0, 0};
    return n;
}

}  // namespace

TEST_CASE("a warp in a raw copy brings every plane where the profile does", "[exchange][opcodes]") {
    for (const double off : {0.0, 0.12}) {
        const FrameMap lens(node(off, 0), picture, picture);
        const OpcodeWarp carried = carried_geometry(lens, 1, false);
        CHECK(carried.largest_px < 0.02);
        CHECK(carried.rms_px <= carried.largest_px);
        const std::string list = encode_opcodes({carried.warp});
        double largest = 0;
        for (int row = 0; row < 4000; row += 333)
            for (int column = 0; column < 6000; column += 333) {
                const Vec2 place(column + 0.5, row + 0.5), green = lens.green(place);
                if (!picture.contains(green)) continue;
                for (int c = 0; c < 3; ++c) {
                    const Vec2 wanted = c == 1 ? green : lens.fringe(static_cast<Channel>(c), green);
                    double x, y;
                    slow_warp(list, c, column, row, x, y);
                    largest = std::max(largest, (Vec2(x + 0.5, y + 0.5) - wanted).norm());
                }
            }
        CHECK(largest < 0.02);
    }
}

TEST_CASE("a scaled warp scales about the lens axis", "[exchange][opcodes]") {
    const FrameMap lens(node(0.1, 0), picture, picture);
    const OpcodeWarp one = carried_geometry(lens, 1, false), larger = carried_geometry(lens, 1.05, false);
    CHECK(larger.largest_px < 0.02);
    const auto k = [](const OpcodeWarp& c) { return std::get<WarpRectilinear>(c.warp.what).planes[1][0]; };
    CHECK(k(larger) == Approx(k(one) / 1.05).epsilon(1e-4));
}

TEST_CASE("a fisheye is carried by the warp of angles", "[exchange][opcodes]") {
    ProfileNode n;
    n.focal_mm = 16;
    n.model = LensModel(LensModelKind::equidistant);
    const FrameMap lens(n, picture, picture);
    const OpcodeWarp carried = carried_geometry(lens, 1, true);
    REQUIRE(std::holds_alternative<WarpFisheye>(carried.warp.what));
    CHECK(carried.largest_px < 0.02);
    // A place of the corrected picture at an angle lies at focal length times angle in the frame.
    const std::string list = encode_opcodes({carried.warp});
    const double m = opcode_frame({0.5, 0.5}, picture).m, angle = 0.6;
    double x, y;
    slow_warp(list, 1, 2999.5 + m * std::tan(angle), 1999.5, x, y);
    CHECK(x - 2999.5 == Approx(16 / 0.006 * angle).margin(0.02));
}

TEST_CASE("falloff is carried by one polynomial where the planes agree, by maps where they do not",
          "[exchange][opcodes]") {
    const std::array<std::array<int, 2>, 2> filter{{{1, 0}, {2, 1}}};
    const FrameMap alike(node(0.05, 0), picture, picture);
    const OpcodeGain radial = carried_falloff(alike, SampleLayout::bayer, filter);
    REQUIRE(radial.opcodes.size() == 1);
    CHECK_FALSE(radial.in_mosaic);
    CHECK(radial.largest_percent < 0.2);
    const std::string list = encode_opcodes(radial.opcodes);
    for (const Vec2& place : {Vec2(0.5, 0.5), Vec2(5999.5, 3999.5), Vec2(1500.5, 3000.5), Vec2(2999.5, 0.5)})
        CHECK(slow_vignette(list, place.x() - 0.5, place.y() - 0.5) ==
              Approx(alike.gain(Channel::green, place)).epsilon(0.002));

    const FrameMap apart(node(0.05, 0.06), picture, picture);
    const OpcodeGain maps = carried_falloff(apart, SampleLayout::bayer, filter);
    REQUIRE(maps.opcodes.size() == 4);
    CHECK(maps.in_mosaic);
    CHECK(maps.largest_percent < 0.2);
    const std::string bytes = encode_opcodes(maps.opcodes);
    std::size_t at = 4;
    for (int i = 0; i < 4; ++i) {
        CHECK(big32(bytes, at) == 9);
        const std::size_t p = at + 16;
        CHECK(big32(bytes, p) == std::uint32_t(i / 2));
        CHECK(big32(bytes, p + 4) == std::uint32_t(i % 2));
        CHECK(big32(bytes, p + 24) == 2);
        const std::uint32_t down = big32(bytes, p + 32), across = big32(bytes, p + 36);
        const auto channel = static_cast<Channel>(filter[i / 2][i % 2]);
        // The last point stands in the last corner, the middle one in the middle.
        CHECK(bigf(bytes, p + 76 + 4 * (std::size_t(down) * across - 1)) == Approx(apart.gain(channel, {6000, 4000})));
        CHECK(bigf(bytes, p + 76 + 4 * (std::size_t(down / 2) * across + across / 2)) ==
              Approx(apart.gain(channel, {3000, 2000})));
        at += 16 + big32(bytes, at + 12);
    }
    CHECK(at == bytes.size());
}

TEST_CASE("opcodes come back as they were, and lying ones are refused in one sentence", "[exchange][opcodes]") {
    WarpRectilinear warp;
    warp.planes = {{1, 0.1, 0.2, 0.3, 1e-4, 2e-4}};
    FixBadPixelsList bad;
    bad.points = {{3, 4}, {70, 9}};
    GainMap map;
    map.down = 2;
    map.across = 3;
    map.gain = {1, 2, 3, 4, 5, 6};
    const std::string bytes = encode_opcodes({{warp}, {bad, false}, {map}, {FixVignetteRadial{{0.1}, {0.4, 0.6}}}});
    const std::vector<Opcode> back = decode_opcodes(bytes, "a.dng");
    REQUIRE(back.size() == 4);
    CHECK(encode_opcodes(back) == bytes);
    CHECK_FALSE(back[1].optional);
    CHECK(name_of(back[2]) == "GainMap");
    CHECK(std::get<GainMap>(back[2].what).gain[5] == 6);

    for (std::size_t length = 0; length < bytes.size(); ++length)
        CHECK(error_of([&] { decode_opcodes(bytes.substr(0, length), "a.dng"); }) == "input");
    std::mt19937 random(9);
    int refused = 0;
    for (int i = 0; i < 3000; ++i) {
        std::string broken = bytes;
        for (unsigned n = 0; n < 1 + random() % 3; ++n) broken[random() % broken.size()] = static_cast<char>(random());
        const std::string said = sentence_of([&] { decode_opcodes(broken, "a.dng"); });
        if (said.empty()) continue;
        ++refused;
        CHECK(is_one_sentence(said));
    }
    CHECK(refused > 300);
    std::string many = bytes;
    many.replace(0, 4, "\xff\xff\xff\xff");
    CHECK(error_of([&] { decode_opcodes(many, "a.dng"); }) == "input");
}
