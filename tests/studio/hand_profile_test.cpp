// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/calibration/hand_profile.h"

#include <catch2/catch.hpp>

#include "fleet/matching.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

FrameDevelopment corrected() {
    FrameDevelopment r = bare_development(rig_frame("SP0001"));
    for (const char* text : {"hand_distortion=-2.4", "red_at_corner=1.2", "red_bow=0.3", "blue_at_corner=-0.9",
                             "corner_light=1.1", "corner_light_from=0.2"})
        set_field(r, text);
    return r;
}

}  // namespace

TEST_CASE("a profile made by hand corrects as what was set by hand does", "[studio][by_hand]") {
    const FrameDevelopment r = corrected();
    const HandProfile made = profile_by_hand(rig_frame("SP0001"), r, "somebody");
    const Profile& p = made.profile;
    CHECK(p.origin == MeasurementOrigin::by_hand);
    CHECK(p.name.find("by hand") != std::string::npos);
    CHECK(p.lens == r.metadata.lens);
    CHECK(p.provenance.frames.size() == 1);
    CHECK(made.light_off_ev < 0.05);
    const FrameMap hand = lens_of(r.fields, std::nullopt, p.geometry, r.metadata.focal_mm);
    const FrameMap kept(p.nodes[0], p.geometry, p.geometry);
    double light = 0;
    for (const Vec2& at : picture_grid(p.geometry, 13, 9)) {
        CHECK((kept.green(at) - hand.green(at)).norm() < 1e-6);
        for (const Channel c : {Channel::red, Channel::blue})
            CHECK((kept.fringe(c, at) - hand.fringe(c, at)).norm() < 1e-6);
        light = std::max(light, std::abs(std::log2(kept.gain(Channel::green, at) / hand.gain(Channel::green, at))));
    }
    CHECK(light < 0.05);
    CHECK(light <= made.light_off_ev + 1e-3);
}

TEST_CASE("a profile made by hand is marked, and never more than a stand-in", "[studio][by_hand]") {
    const FrameDevelopment r = corrected();
    const Profile made = profile_by_hand(rig_frame("SP0001"), r, "somebody").profile;
    const std::string text = profile_to_json(made);
    const Profile read = profile_from_json(text, "the text");
    CHECK(read.origin == MeasurementOrigin::by_hand);
    // Readers that know nothing of it refuse it instead of taking it for measured.
    CHECK(text.find("\"format_version\": 4") != std::string::npos);
    Profile measured = read;
    measured.origin = MeasurementOrigin::measured;
    CHECK(profile_to_json(measured).find("\"format_version\": 3") != std::string::npos);
    CHECK_FALSE(same_subject(measured, read));

    const ProfileMatch match = grade_profile(read, r.metadata, read.geometry);
    CHECK_FALSE(match.usable());
    CHECK(assigned_profile(read, r.metadata, read.geometry).grade == MatchGrade::stand_in);
    CHECK_FALSE(best_profile({read}, r.metadata, read.geometry).usable());
    // A measured one of the same lens is not touched by it.
    CHECK(best_profile({read, measured}, r.metadata, read.geometry).profile->origin == MeasurementOrigin::measured);
}

TEST_CASE("there has to be something that a profile can keep", "[studio][by_hand]") {
    const auto refused = [](const FrameDevelopment& r) {
        return error_of([&] { profile_by_hand(rig_frame("SP0001"), r, ""); }) == "input";
    };
    FrameDevelopment r = bare_development(rig_frame("SP0001"));
    CHECK(refused(r));
    set_field(r, "roll=2");
    CHECK(refused(r));
    r = corrected();
    r.metadata.lens.clear();
    CHECK(refused(r));
    r = corrected();
    r.profile = AppliedProfile{};
    CHECK(refused(r));
}
