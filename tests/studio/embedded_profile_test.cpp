// SPDX-License-Identifier: GPL-3.0-or-later
// The correction that a DNG carries, kept as a profile: it does what the opcodes say, and is never taken for measured.
#include "studio/calibration/embedded_profile.h"

#include <catch2/catch.hpp>
#include <random>

#include "fleet/matching.h"
#include "frames/opcode_lists.h"
#include "support/sample_profile.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

EmbeddedCorrection carrying(std::vector<Opcode> opcodes) {
    EmbeddedCorrection out;
    out.geometry = geometry_of(sample_frame());
    for (Opcode& o : opcodes) out.opcodes.push_back({3, std::move(o)});
    return out;
}

EmbeddedProfile kept(std::vector<Opcode> opcodes) {
    return profile_embedded(rig_frame("SP0001"), sample_frame(), carrying(std::move(opcodes)), "T. Ester");
}

WarpRectilinear some_warp(unsigned seed) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> u(-1, 1);
    WarpRectilinear w;
    w.centre = {0.5 + 0.02 * u(random), 0.5 + 0.02 * u(random)};
    const std::array<double, 6> green{1 + 0.03 * u(random), 0.1 * u(random),    0.03 * u(random),
                                      0.01 * u(random),     0.0005 * u(random), 0.0005 * u(random)};
    w.planes = {green, green, green};
    for (int k = 0; k < 3; ++k) {
        w.planes[0][k] += 0.0004 * u(random);
        w.planes[2][k] += 0.0004 * u(random);
    }
    return w;
}

/// Largest distance of the profile's places from the warp's, over the places of its picture that lie in the frame.
double off_px(const EmbeddedProfile& p, const WarpRectilinear& w) {
    const PictureGeometry& g = p.profile.geometry;
    const FrameMap lens(p.profile.nodes[0], g, g);
    double worst = 0;
    for (const Vec2& place : picture_grid(g, 25, 17)) {
        const Vec2 green = warped(w, 1, place, g);
        if (!g.contains(green)) continue;
        const auto ideal = lens.ideal(green);
        REQUIRE(ideal);
        // The warp's picture is the ideal one but for its scale about its centre.
        worst = std::max(worst, ((*ideal - lens.centre()) / w.planes[1][0] + lens.centre() - place).norm());
        for (const Channel c : {Channel::red, Channel::blue})
            worst = std::max(worst, (lens.fringe(c, green) - warped(w, static_cast<int>(c), place, g)).norm());
    }
    return worst;
}

}  // namespace

TEST_CASE("a profile kept from a warp puts every colour where the warp does", "[studio][embedded]") {
    for (unsigned seed = 0; seed < 12; ++seed) {
        const WarpRectilinear w = some_warp(seed);
        const EmbeddedProfile p = kept({{w}});
        CAPTURE(seed, p.followed());
        // Red and blue have three radial terms where the warp has four; each of these is up to 0.6 px in the corner.
        CHECK(off_px(p, w) < 0.03);
        CHECK(p.largest_px.value() == Approx(off_px(p, w)).margin(0.005));
        CHECK(p.left_out.empty());
    }
    WarpRectilinear one = some_warp(20);
    one.planes.resize(1);
    CHECK(kept({{one}}).largest_px.value() < 1e-6);
    CHECK_FALSE(kept({{one}}).profile.nodes[0].red);
    WarpFisheye round;
    round.planes = {{1.02, -0.05, 0.01, 0}};
    CHECK(kept({{round}}).largest_px.value() < 1e-6);
    CHECK(kept({{round}}).profile.nodes[0].model.kind() == LensModelKind::equidistant);
}

TEST_CASE("a radial falloff is kept with it, other opcodes are named", "[studio][embedded]") {
    FixVignetteRadial fix;
    fix.centre = {0.51, 0.49};
    fix.k = {0.4, 0.2, -0.05, 0.02, 0};
    GainMap map;
    map.gain = {1};
    const EmbeddedProfile p = kept({{fix}, {map}, {map}, {FixBadPixelsList{}}});
    CHECK(p.largest_percent.value() < 1e-6);
    CHECK(p.left_out == std::vector<std::string>{"FixBadPixelsList", "GainMap"});
    CHECK(p.profile.provenance.note ==
          "Embedded in SP0001.dng: FixVignetteRadial (optional), 2 GainMap (optional), FixBadPixelsList (optional)");
    CHECK(p.followed() == "A profile follows it to 0.00 %.");
    const PictureGeometry& g = p.profile.geometry;
    const FrameMap lens(p.profile.nodes[0], g, g);
    const Vec2 corner{3, 1600};
    CHECK(lens.gain(Channel::red, corner) / lens.gain(Channel::red, g.middle()) ==
          Approx(gain_at(fix, corner, g) / gain_at(fix, g.middle(), g)).epsilon(1e-6));
    fix.k[4] = 0.05;  // of five terms four remain
    CHECK(kept({{fix}}).largest_percent.value() < 0.5);
    CHECK(kept({{fix}}).largest_percent.value() > 0.001);
}

TEST_CASE("a profile kept from a frame is assigned, and never taken by itself", "[studio][embedded]") {
    const EmbeddedProfile made = kept({{some_warp(3)}});
    CHECK(made.profile.provenance.note == "Embedded in SP0001.dng: WarpRectilinear (optional)");
    const Profile p = profile_from_json(profile_to_json(made.profile), "p.json");
    CHECK(p.origin == MeasurementOrigin::embedded);
    CHECK(profile_to_json(p) == profile_to_json(made.profile));
    Metadata m = sample_frame();
    const PictureGeometry g = geometry_of(m);
    CHECK(grade_profile(p, m, g).grade == MatchGrade::none);
    CHECK(grade_profile(p, m, g).against.front().find("read from a frame") != std::string::npos);
    CHECK_FALSE(best_profile({p}, m, g, MatchGrade::stand_in).usable());
    CHECK(assigned_profile(p, m, g).grade == MatchGrade::embedded);
    CHECK(to_string(assigned_profile(p, m, g).grade) == "embedded");
    m.lens = "Another 50mm f/2";
    CHECK(assigned_profile(p, m, g).grade == MatchGrade::stand_in);
}

TEST_CASE("what cannot be kept is refused in one sentence", "[studio][embedded]") {
    const auto said = [](std::vector<Opcode> opcodes) { return sentence_of([&] { kept(std::move(opcodes)); }); };
    CHECK(is_one_sentence(said({})));
    CHECK(is_one_sentence(said({{FixBadPixelsList{}}})));
    WarpRectilinear mirror = some_warp(1);
    for (auto& plane : mirror.planes) plane[0] = -1;
    CHECK(said({{mirror}}).find("inside out") != std::string::npos);
    WarpRectilinear folded = some_warp(1);
    for (auto& plane : folded.planes) plane = {1, -0.9, 0, 0, 0, 0};
    CHECK(said({{folded}}).find("folds") != std::string::npos);
    WarpRectilinear far = some_warp(1);
    for (auto& plane : far.planes) plane[1] = 1e300;
    CHECK(said({{far}}).find("too little") != std::string::npos);
    for (auto& plane : far.planes) plane[0] = 1e300;
    CHECK(said({{far}}).find("too little") != std::string::npos);
    WarpRectilinear torn = some_warp(1);
    torn.planes[0][0] = -1;
    CHECK(said({{torn}}).find("apart") != std::string::npos);
    FixVignetteRadial bright;
    bright.k = {1e300, 0, 0, 0, 0};
    CHECK(said({{bright}}).find("thousandfold") != std::string::npos);
    FixVignetteRadial dark;
    dark.k = {-3, 0, 0, 0, 0};
    CHECK(said({{dark}}).find("below zero") != std::string::npos);
    Metadata nameless = sample_frame();
    nameless.lens.clear();
    CHECK(is_one_sentence(
        sentence_of([&] { profile_embedded(rig_frame("SP0001"), nameless, carrying({{some_warp(1)}}), ""); })));
}

TEST_CASE("the heads of opcodes tell what a file carries, also when they lie", "[frames][embedded]") {
    const std::string list =
        encode_opcodes({{some_warp(1)}, {FixBadPixelsList{}}, {FixVignetteRadial{}}, {some_warp(2)}});
    CHECK(lens_corrections_in({"", "", list}) == "WarpRectilinear, FixVignetteRadial");
    CHECK(lens_corrections_in({encode_opcodes({{FixBadPixelsList{}}}), "", ""}).empty());
    CHECK(lens_corrections_in({"", "", ""}).empty());
    for (std::size_t n = 0; n < list.size(); ++n) lens_corrections_in({list.substr(0, n), "", ""});
    std::string lying = list;
    for (int k = 0; k < 4; ++k) lying[k] = lying[16 + k] = '\xff';  // a count and a size of four thousand millions
    CHECK(lens_corrections_in({"", lying, ""}) == "WarpRectilinear");
}
