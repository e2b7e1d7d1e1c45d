// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/baselines/frame_trace.h"

#include <catch2/catch.hpp>

#include "studio/baselines/drafting.h"
#include "studio/baselines/tiers.h"

using namespace optrel;

namespace {

Revision exposure_of(int number, double value) {
    Revision r;
    r.number = number;
    Tier t;
    t.name = "House";
    pin_in_tier(r, tier_with(r, t).id, Field::exposure, Pin::constant({value, ""}));
    return r;
}

FrameFacts some_frame() {
    FrameFacts facts;
    facts.model = "Brimholt B2";
    facts.iso = 400;
    return facts;
}

}  // namespace

TEST_CASE("a frame's trace ends with what won, layer on layer", "[studio]") {
    const Resolver resolver(exposure_of(2, 0.5));
    Sheet sheet;
    std::vector<TraceLine> lines = frame_trace(sheet, some_frame(), Field::exposure, resolver);
    REQUIRE(lines.size() == 2);  // the start, and the tier that would apply
    CHECK(lines.back().source == "House, revision 2");
    CHECK(lines.back().value.number == 0.5);

    sheet.hand[Field::exposure] = {1, ""};  // no baseline was rolled out beneath
    lines = frame_trace(sheet, some_frame(), Field::exposure, resolver);
    CHECK(lines.size() == 2);
    CHECK(lines.back().source == "by hand");

    sheet.revision = 2;
    sheet.baseline[Field::exposure] = {0.5, ""};
    sheet.set[Field::exposure] = {0.75, ""};
    lines = frame_trace(sheet, some_frame(), Field::exposure, resolver);
    REQUIRE(lines.size() == 4);
    CHECK(lines[2].source == "set on top");
    CHECK(lines[3].value.number == 1);

    sheet.baseline[Field::exposure] = {0.25, ""};  // the frame was known otherwise when it was rolled out
    lines = frame_trace(sheet, some_frame(), Field::exposure, resolver);
    REQUIRE(lines.size() == 5);
    CHECK(lines[2].source == "as written by the rollout");
    CHECK_FALSE(lines[2].remark.empty());

    sheet.exempt = true;
    CHECK(frame_trace(sheet, some_frame(), Field::exposure, resolver).size() == 1);
}

TEST_CASE("a sheet is traced by the revision that it came from", "[studio]") {
    const auto current = std::make_shared<const Resolver>(exposure_of(3, 1));
    int asked = 0;
    const auto revision = [&](int number) -> std::optional<Revision> {
        ++asked;
        if (number == 2) return exposure_of(2, 0.5);
        return std::nullopt;
    };
    Sheet sheet;
    CHECK(resolver_of(sheet, current, revision) == current);
    sheet.revision = 3;
    CHECK(resolver_of(sheet, current, revision) == current);
    CHECK(asked == 0);
    sheet.revision = 2;
    CHECK(resolver_of(sheet, current, revision)->revision().number == 2);
    sheet.revision = 1;  // gone with an older store
    CHECK(resolver_of(sheet, current, revision) == current);
}
