// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/proposing.h"

#include <catch2/catch.hpp>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

FrameLines lines_of(const char* name) {
    const FrameDevelopment r = bare_development(rig_frame(name));
    return find_lines(rig_frame(name), r.metadata, r.fields, r.profile, Progress());
}

}  // namespace

TEST_CASE("a hue is called a fault, by another amount, and none again", "[studio][proposing]") {
    const std::string once = with_hue("none", 300, 80);
    CHECK(once == "270-330 80");
    CHECK(with_hue(once, 300, 50) == "270-330 50");
    CHECK(with_hue(once, 120, 80) == "270-330 80, 90-150 80");
    CHECK(with_hue(once, 300, 0) == "none");
    // Whatever range takes it away, also through 0.
    CHECK(with_hue("260-340 80, 90-150 50", 300, 0) == "90-150 50");
    CHECK(with_hue("none", 10, 80) == "340-40 80");
    CHECK(with_hue("340-40 80", 350, 0) == "none");
}

TEST_CASE("a fringe is described by hue, strength, width and frequency", "[studio][proposing]") {
    FringeFound f;
    f.hue = 301;
    f.percent = 4.24;
    f.width_px = 3;
    f.share = 0.12;
    f.bright = true;
    CHECK(describe(f) == "purple (301°), 4.2 % of white, 3 px wide, at 12 % of edges, most of them bright");
    f.hue = 119;
    f.bright = false;
    CHECK(describe(f) == "green (119°), 4.2 % of white, 3 px wide, at 12 % of edges");
    f.hue = 359;
    CHECK(describe(f).rfind("red", 0) == 0);
}

TEST_CASE("a line that is drawn along an edge counts as what it is said to be", "[studio][proposing]") {
    FrameLines lines = lines_of("CH0001");
    const std::size_t before = lines.lines.size();
    REQUIRE(before > 20);
    const Segment known = lines.segments[3];
    draw_line(lines, known.from + Vec2(1, 1), known.to + Vec2(1, 1), LineSense::horizontal);
    REQUIRE(lines.lines.size() == before + 1);
    CHECK(lines.lines.back().sense == LineSense::horizontal);
    CHECK(std::abs(lines.lines.back().normal.dot(lines.lines[3].normal)) == Approx(1).margin(1e-4));
    // Nothing lies in the middle of a square.
    const Vec2 along = (known.to - known.from).normalized(), across(-along.y(), along.x());
    const Vec2 beside = 0.5 * (known.from + known.to) + 0.5 * known.length() * across;
    CHECK(is_one_sentence(
        sentence_of([&] { draw_line(lines, beside - 14 * along, beside + 14 * along, LineSense::vertical); })));
    CHECK(lines.lines.size() == before + 1);
}

TEST_CASE("angles besides roll need a focal length that somebody knows", "[studio][proposing]") {
    FrameLines lines = lines_of("CH0001");
    CHECK(lines.focal_known);
    CHECK_NOTHROW(straighten(lines, TurnAngles::roll_pitch));
    lines.focal_known = false;
    CHECK_NOTHROW(straighten(lines, TurnAngles::roll));
    CHECK(error_of([&] { straighten(lines, TurnAngles::roll_pitch); }) == "input");
}

TEST_CASE("proposals are what fields can hold, and say how sure they are", "[studio][proposing]") {
    FrameDevelopment r = bare_development(rig_frame("SP0001"));
    const FieldProposal colours = propose_colours(rig_frame("SP0001"), r, Progress());
    REQUIRE(colours.values.size() == 4);
    for (const auto& [field, value] : colours.values) CHECK(value_from_text(field, to_text(field, value)) == value);
    CHECK(is_one_sentence(colours.text));
    // Once taken, the same is proposed again.
    for (const auto& [field, value] : colours.values) set_field(r, info(field).id + "=" + to_text(field, value));
    const FieldProposal again = propose_colours(rig_frame("SP0001"), r, Progress());
    for (int k = 0; k < 4; ++k)
        CHECK(again.values[k].second.number == Approx(colours.values[k].second.number).margin(0.03));

    const FrameLines lines = lines_of("CH0001");
    const FieldProposal straight =
        propose_distortion(lines, std::vector<bool>(lines.lines.size(), true), bare_development(rig_frame("CH0001")));
    CHECK(straight.values[0].second.number == Approx(-2.6).margin(0.5));
    CHECK(error_of([&] { propose_distortion(lines, {}, r); }) == "input");
    CHECK(error_of([&] { propose_light(rig_frame("SP0001"), r, {10, 10, 40, 40}, Progress()); }) == "input");
}

TEST_CASE("a field for one picture is understood or refused", "[studio][proposing]") {
    FrameDevelopment r = bare_development(rig_frame("SP0001"));
    set_field(r, "pitch=2.5");
    CHECK(r.fields[Field::pitch].value.number == 2.5);
    for (const char* text : {"pitch=", "pitch=2,5", "pitch=61"})
        CHECK(error_of([&] { set_field(r, text); }) == "input");
    for (const char* text : {"pitch", "ptich=2", "start=neutral", "lens_profile=none"})
        CHECK(error_of([&] { set_field(r, text); }) == "usage");
}
