// SPDX-License-Identifier: GPL-3.0-or-later
// How far beyond its measured focal lengths a profile may be used: the rule, and everybody who asks it.
#include "optics/focal_reach.h"

#include <algorithm>
#include <catch2/catch.hpp>

#include "fleet/matching.h"
#include "studio/profiles/profile_fit.h"
#include "support/sample_profile.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("a profile reaches its focal lengths and 3.5 percent beyond", "[optics]") {
    Profile zoom = sample_profile("a");
    zoom.nodes.resize(1);
    zoom.nodes[0].setting.focal_mm = zoom.nodes[0].focal_mm = 24;
    zoom.nodes.push_back(zoom.nodes[0]);
    zoom.nodes[1].setting.focal_mm = zoom.nodes[1].focal_mm = 70;
    for (const double inside : {24 / 1.0349, 24.0, 35.0, 70.0, 70 * 1.0349, 0.0}) CHECK(reaches_focal(zoom, inside));
    for (const double outside : {24 / 1.0351, 12.0, 70 * 1.0351, 200.0}) CHECK_FALSE(reaches_focal(zoom, outside));
}

TEST_CASE("matching and a profile that is named agree about focal lengths", "[optics][fleet]") {
    const Profile p = sample_profile("a");
    const double focal = focal_range(p).first;
    for (const double share : {0.9, 1 / 1.036, 1 / 1.034, 1.0, 1.034, 1.036, 1.2}) {
        INFO(share);
        Metadata frame;
        frame.lens = p.lens;
        frame.focal_mm = share * focal;
        const ProfileMatch match = grade_profile(p, frame, p.geometry);
        const bool refused = std::any_of(match.against.begin(), match.against.end(), [](const std::string& why) {
            return why.find("the frame is at") != std::string::npos;
        });
        const bool named = sentence_of([&] {
                               require_fit(p, {frame.focal_mm, 0, 0}, p.geometry, "A frame");
                           }).find("the profile") != std::string::npos;
        CHECK(refused == !reaches_focal(p, frame.focal_mm));
        CHECK(named == refused);
    }
}
