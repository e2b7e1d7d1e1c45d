#include <catch2/catch.hpp>

#include "fleet/matching.h"
#include "fleet/register.h"
#include "support/support.h"

using namespace optrel;

namespace {

Metadata frame(const char* serial = "B2-0117") {
    Metadata m;
    m.maker = "Brimholt";
    m.model = "Brimholt B2";
    m.body_serial = serial;
    m.lens = "Lumenfold 35mm f/2.8";
    m.lens_serial = "LF35-1";
    m.focal_mm = 35;
    m.aperture = 4;
    m.width = 2464;
    m.height = 1640;
    m.pitch_um = 9.4;
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

const PictureGeometry geometry{2464, 1640, 9.4};

}  // namespace

TEST_CASE("a body is known by its serial number once it is registered", "[fleet]") {
    const Body body = body_from(frame());
    CHECK(body.id == "Brimholt B2/B2-0117");
    const BodyAnswer answer = identify_body(frame(), {body});
    CHECK(answer.knowledge == BodyAnswer::Knowledge::known);
    CHECK(answer.id == body.id);
    CHECK(identify_body(frame("other"), {body}).knowledge == BodyAnswer::Knowledge::unknown);
}

TEST_CASE("without a serial number a body is assumed only when it is the only one", "[fleet]") {
    const Body one = body_from(frame("1")), two = body_from(frame("2"));
    CHECK(identify_body(frame(""), {one}).knowledge == BodyAnswer::Knowledge::assumed);
    CHECK(identify_body(frame(""), {one}).id == one.id);
    CHECK(identify_body(frame(""), {one, two}).knowledge == BodyAnswer::Knowledge::unknown);
    CHECK(identify_body(frame(""), {}).knowledge == BodyAnswer::Knowledge::unknown);
    Metadata nameless;
    CHECK(identify_body(nameless, {one}).knowledge == BodyAnswer::Knowledge::unknown);
}

TEST_CASE("ids need a serial number", "[fleet]") {
    CHECK(body_id(frame("")).empty());
    CHECK(lens_id(frame()) == "Lumenfold 35mm f/2.8/LF35-1");
    Metadata m = frame();
    m.lens.clear();
    CHECK(lens_id(m).empty());
}

TEST_CASE("match grades tell own copy, same model and other lenses apart", "[fleet]") {
    CHECK(grade_profile(profile(), frame(), geometry).grade == MatchGrade::own_copy);
    CHECK(grade_profile(profile("p", "other"), frame(), geometry).grade == MatchGrade::same_model);
    Metadata m = frame();
    m.lens = "lumenfold 35 MM F2.8";
    CHECK(grade_profile(profile(), m, geometry).grade == MatchGrade::own_copy);
    m.lens = "Aldercroft 60mm f/4";
    CHECK(grade_profile(profile(), m, geometry).grade == MatchGrade::none);
    m.lens.clear();
    CHECK(grade_profile(profile(), m, geometry).grade == MatchGrade::none);
    for (const MatchGrade g : {MatchGrade::none, MatchGrade::stand_in, MatchGrade::rescaled, MatchGrade::same_model, MatchGrade::own_copy}) CHECK_FALSE(to_string(g).empty());
}

TEST_CASE("another sensor size is rescaled only as far as the data reach", "[fleet]") {
    const ProfileMatch smaller = grade_profile(profile(), frame(), {1600, 1066, 9.4});
    CHECK(smaller.grade == MatchGrade::rescaled);
    CHECK(smaller.reasons.size() >= 2);
    const ProfileMatch larger = grade_profile(profile(), frame(), {3800, 2530, 9.4});
    CHECK(larger.grade == MatchGrade::none);
    CHECK(larger.reasons.back().find("mm") != std::string::npos);
}

TEST_CASE("another focal length is refused, another aperture is told", "[fleet]") {
    Metadata m = frame();
    m.focal_mm = 50;
    CHECK(grade_profile(profile(), m, geometry).grade == MatchGrade::none);
    m = frame();
    m.aperture = 8;
    const ProfileMatch match = grade_profile(profile(), m, geometry);
    CHECK(match.grade == MatchGrade::own_copy);
    CHECK(match.reasons.back().find("f/8") != std::string::npos);
}

TEST_CASE("the best profile is the best grade, then the newest version", "[fleet]") {
    const std::vector<Profile> profiles{profile("a", "other", 5), profile("b", "LF35-1", 1), profile("b", "LF35-1", 3), profile("b", "LF35-1", 2)};
    const ProfileMatch best = best_profile(profiles, frame(), geometry);
    REQUIRE(best.usable());
    CHECK(best.profile->id == "b");
    CHECK(best.profile->version == 3);
    CHECK_FALSE(best_profile({}, frame(), geometry).usable());
}
