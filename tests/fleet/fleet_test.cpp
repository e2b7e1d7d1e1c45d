// SPDX-License-Identifier: GPL-3.0-or-later
#include <catch2/catch.hpp>

#include "fleet/fleet.h"
#include "fleet/matching.h"
#include "support/sample_profile.h"
#include "support/support.h"

using namespace optrel;

namespace {

Metadata frame(const char* serial = "B2-0117") {
    Metadata m = test::sample_frame();
    m.body_serial = serial;
    m.lens_serial = "LF35-1";
    return m;
}

Profile profile(const char* id = "p1", const char* serial = "LF35-1", int version = 1) {
    Profile p;
    p.id = id;
    p.version = version;
    p.lens = p.name = "Lumenfold 35mm f/2.8";
    p.lens_serial = serial;
    p.geometry = {2464, 1640, 9.4};
    ProfileNode n;
    n.focal_mm = 35.4;
    n.setting = {35, 4, 1};
    n.largest_radius_mm = 13.5;
    p.nodes = {n};
    return p;
}

const PictureGeometry body_geometry{2464, 1640, 9.4};

}  // namespace

TEST_CASE("ids need a serial number", "[fleet]") {
    CHECK(body_id(frame("")).empty());
    CHECK(lens_id(frame()) == "Lumenfold 35mm f/2.8/LF35-1");
    Metadata m = frame();
    m.lens.clear();
    CHECK(lens_id(m).empty());
}

TEST_CASE("match grades tell own copy, same model and other lenses apart", "[fleet]") {
    CHECK(grade_profile(profile(), frame(), body_geometry).grade == MatchGrade::own_copy);
    CHECK(grade_profile(profile("p", "other"), frame(), body_geometry).grade == MatchGrade::same_model);
    Metadata m = frame();
    m.lens = "lumenfold 35 MM F2.8";
    CHECK(grade_profile(profile(), m, body_geometry).grade == MatchGrade::own_copy);
    m.lens = "Aldercroft 60mm f/4";
    CHECK(grade_profile(profile(), m, body_geometry).grade == MatchGrade::none);
    m.lens.clear();
    CHECK(grade_profile(profile(), m, body_geometry).grade == MatchGrade::none);
    for (const MatchGrade g :
         {MatchGrade::none, MatchGrade::stand_in, MatchGrade::rescaled, MatchGrade::same_model, MatchGrade::own_copy})
        CHECK_FALSE(to_string(g).empty());
}

TEST_CASE("another sensor size is rescaled only as far as the data reach", "[fleet]") {
    const ProfileMatch smaller = grade_profile(profile(), frame(), {1600, 1066, 9.4});
    CHECK(smaller.grade == MatchGrade::rescaled);
    CHECK(smaller.reasons.size() >= 2);
    const ProfileMatch larger = grade_profile(profile(), frame(), {3800, 2530, 9.4});
    CHECK(larger.grade == MatchGrade::none);
    CHECK(larger.against.back().find("mm") != std::string::npos);
}

TEST_CASE("another focal length is refused, another aperture is told", "[fleet]") {
    Metadata m = frame();
    m.focal_mm = 50;
    CHECK(grade_profile(profile(), m, body_geometry).grade == MatchGrade::none);
    m = frame();
    m.aperture = 8;
    const ProfileMatch match = grade_profile(profile(), m, body_geometry);
    CHECK(match.grade == MatchGrade::own_copy);
    CHECK(match.reasons.back().find("f/8") != std::string::npos);
}

TEST_CASE("the best profile is the best grade, then the newest version", "[fleet]") {
    const std::vector<Profile> profiles{profile("a", "other", 5), profile("b", "LF35-1", 1), profile("b", "LF35-1", 3),
                                        profile("b", "LF35-1", 2)};
    const ProfileMatch best = best_profile(profiles, frame(), body_geometry);
    REQUIRE(best.usable());
    CHECK(best.profile->id == "b");
    CHECK(best.profile->version == 3);
    CHECK_FALSE(best_profile({}, frame(), body_geometry).usable());
}

TEST_CASE("lens texts are compared with care for spelling", "[fleet]") {
    using M = LensTextMatch;
    for (const char* same :
         {"LUMENFOLD 35 mm F2.8", "Lumenfold 35mm 1:2.8", "lumenfold 35/2.8", " Lumenfold  35mm  f2.8 "})
        CHECK(compare_lens_texts("Lumenfold 35mm f/2.8", same) == M::same);
    CHECK(compare_lens_texts("35mm f/2.8", "Lumenfold 35mm f/2.8") == M::maker_left_out);
    CHECK(compare_lens_texts("Lumenfold 35mm f/2.8", "35mm F2.8") == M::maker_left_out);
    for (const char* other :
         {"Aldercroft 35mm f/2.8", "Lumenfold 35mm f/2", "Lumenfold 35mm", "Lumenfold 135mm f/2.8", ""})
        CHECK(compare_lens_texts("Lumenfold 35mm f/2.8", other) == M::different);
    CHECK(compare_lens_texts("", "") == M::different);
    CHECK(compare_lens_texts("Lumenfold Macro", "Macro") == M::different);  // no figure tells that it is the same
}

TEST_CASE("a text without its maker fits one lens, never two", "[fleet]") {
    Metadata m = frame();
    m.lens = "35mm f/2.8";
    Profile other = profile("q", "AC-1");
    other.lens = other.name = "Aldercroft 35mm f/2.8";
    CHECK(best_profile({profile()}, m, body_geometry).grade == MatchGrade::same_model);
    CHECK_FALSE(best_profile({profile(), other}, m, body_geometry).usable());
    CHECK(candidates({profile(), other}, m, body_geometry).front().against.back().find("2 lenses") !=
          std::string::npos);
}

TEST_CASE("another projection, another focal range and too small a radius are refused, and by hand they stay marked",
          "[fleet]") {
    Profile fish = profile("f");
    fish.lens = "Lumenfold Fisheye 8mm f/4";
    fish.nodes[0].model = LensModel(LensModelKind::equidistant);
    ProfileMatch match = grade_profile(fish, frame(), body_geometry);
    CHECK(match.grade == MatchGrade::none);
    CHECK(std::any_of(match.against.begin(), match.against.end(),
                      [](const std::string& r) { return r.find("projection") != std::string::npos; }));
    match = assigned_profile(fish, frame(), body_geometry);
    CHECK(match.grade == MatchGrade::stand_in);
    CHECK_FALSE(match.against.empty());
    Metadata m = frame();
    m.lens = "Lumenfold Fisheye 8mm f/4";
    CHECK(grade_profile(profile(), m, body_geometry).against.size() >= 2);
    CHECK(assigned_profile(profile(), frame(), body_geometry).grade == MatchGrade::own_copy);
}

TEST_CASE("a least match grade holds poorer profiles off", "[fleet]") {
    const std::vector<Profile> profiles{profile("a", "other")};
    CHECK(best_profile(profiles, frame(), body_geometry, MatchGrade::same_model).usable());
    const ProfileMatch none = best_profile(profiles, frame(), body_geometry, MatchGrade::own_copy);
    CHECK_FALSE(none.usable());
    CHECK(none.reasons.front().find("own copy") != std::string::npos);
    CHECK(grade_from_text("rescaled") == MatchGrade::rescaled);
    CHECK(grade_from_text("nonsense") == MatchGrade::none);
}

TEST_CASE("candidates come in the order of their worth, refused ones last", "[fleet]") {
    Profile other = profile("z");
    other.lens = "Aldercroft 60mm f/4";
    const std::vector<Profile> profiles{other, profile("a", "other"), profile("b")};
    const auto all = candidates(profiles, frame(), body_geometry);
    REQUIRE(all.size() == 3);
    CHECK(all[0].profile->id == "b");
    CHECK(all[1].grade == MatchGrade::same_model);
    CHECK_FALSE(all[2].usable());
}
