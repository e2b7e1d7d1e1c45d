// SPDX-License-Identifier: GPL-3.0-or-later
// What goes wrong when people shoot, and whether it is said.
#include <catch2/catch.hpp>

#include "calibration/run.h"
#include "support/rig_run.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const char* plain = "checker:15x10:30";

const std::vector<RunFrame>& found_frames() { return measured_rig(); }

RunSolution solve(const std::vector<RunFrame>& frames, const char* chart = plain) {
    SolveSettings s;
    s.chart = ChartSpec::parse(chart);
    return solve_run(frames, s, Progress());
}

const Finding* said(const RunSolution& s, const std::string& words) {
    for (const Finding& f : s.findings)
        if (f.text.find(words) != std::string::npos) return &f;
    return nullptr;
}

}  // namespace

TEST_CASE("a good set has nothing against it", "[calibration]") {
    const RunSolution s = solve(found_frames());
    for (const Finding& f : s.findings) UNSCOPED_INFO(f.text);
    CHECK(s.findings.empty());
}

TEST_CASE("one frame used twice counts once", "[calibration]") {
    std::vector<RunFrame> frames = found_frames();
    frames.push_back(frames[4]);
    frames.back().path = "copy of it.dng";
    const RunSolution s = solve(frames);
    CHECK_FALSE(s.outcomes.back().used);
    CHECK(s.outcomes.back().reason.find("same picture as CH0005.dng") != std::string::npos);
    CHECK(s.profile.nodes[0].quality.frames_used == 13);
}

TEST_CASE("turned frames and frames of another body are left out with the reason", "[calibration]") {
    std::vector<RunFrame> frames = found_frames();
    std::swap(frames[1].width, frames[1].height);
    frames[2].metadata.body_serial = "B2-0231";
    frames[3].metadata.lens = "Aldercroft 24-70mm f/4";
    const RunSolution s = solve(frames);
    CHECK(s.outcomes[1].reason.find("turned") != std::string::npos);
    CHECK(s.outcomes[2].reason.find("B2-0231") != std::string::npos);
    CHECK(s.outcomes[3].reason.find("Aldercroft") != std::string::npos);
    for (const int i : {1, 2, 3}) {
        CHECK(is_one_sentence(s.outcomes[i].reason));
        CHECK(said(s, s.outcomes[i].reason)->frame == i);
    }
}

TEST_CASE("a chart of another kind than the run's is refused frame by frame", "[calibration]") {
    const RunFrame f =
        measure_frame(rig_frame("CH0001"), MeasureAs::chart, ChartSpec::parse("coded:15x10:30"), Progress());
    CHECK(is_one_sentence(f.problem));
    CHECK(f.problem.find("coded") != std::string::npos);
}

TEST_CASE("a wrong printed size is suspected from the focus distance", "[calibration]") {
    const RunSolution s = solve(found_frames(), "checker:15x10:60");
    const Finding* f = said(s, "size of the squares");
    REQUIRE(f);
    CHECK_FALSE(f->remedy.empty());
    // It hurts nothing but the distance.
    CHECK(s.profile.nodes[0].focal_mm == Approx(solve(found_frames()).profile.nodes[0].focal_mm).epsilon(1e-6));
}

TEST_CASE("a set without any tilt is a serious finding", "[calibration]") {
    std::vector<RunFrame> frames = found_frames();
    for (const int i : {9, 10, 11, 12}) frames[i].dropped = true;
    const Finding* f = said(solve(frames), "No chart frame is tilted");
    REQUIRE(f);
    CHECK(f->serious);
}

TEST_CASE("an uncovered corner of the picture is pointed at", "[calibration]") {
    std::vector<RunFrame> frames = found_frames();
    frames[5].dropped = true;  // the only one in the upper left
    const RunSolution s = solve(frames);
    if (const Finding* f = said(s, "corners of the picture")) {
        REQUIRE(f->place);
        CHECK(f->place->norm() < 1);
    }
}

TEST_CASE("a flat field with a shadow is left out, and falloff stays right", "[calibration]") {
    std::vector<RunFrame> frames = found_frames();
    for (FlatField::Block& b : frames[14].flat.blocks)
        if ((b.uv - Vec2(700, 500)).norm() < 260) b.mean *= 0.93;
    const RunSolution s = solve(frames);
    CHECK_FALSE(s.outcomes[14].used);
    CHECK(s.outcomes[14].reason.find("not evenly lit") != std::string::npos);
    CHECK(compare(s.profile, rig_truth("brimholt-a")).gain_percent < 0.5);
    // When every flat has it, it is used with a serious finding that points at the place.
    for (const int i : {13, 15, 16})
        for (FlatField::Block& b : frames[i].flat.blocks)
            if ((b.uv - Vec2(700, 500)).norm() < 260) b.mean *= i == 13 ? 0.93 : 0.9;
    const RunSolution all = solve(frames);
    const Finding* f = said(all, "not evenly lit");
    REQUIRE(f);
    if (f->serious) CHECK((*f->place - Vec2(700, 500)).norm() < 300);
}

TEST_CASE("several lens settings become nodes, each with its own falloff", "[calibration]") {
    std::vector<RunFrame> frames = found_frames();
    const std::size_t n = frames.size();
    for (std::size_t i = 0; i < n; ++i) {  // the same pictures as if taken at 50 mm
        frames.push_back(frames[i]);
        frames.back().metadata.focal_mm = 50;
        frames.back().hash += "50";
    }
    frames.push_back(frames[0]);
    frames.back().metadata.focal_mm = 70;
    frames.back().hash += "70";
    const RunSolution s = solve(frames);
    REQUIRE(s.profile.nodes.size() == 2);
    CHECK(s.profile.nodes[0].setting.focal_mm == 35);
    CHECK(s.profile.nodes[1].setting.focal_mm == 50);
    CHECK(s.profile.nodes[1].falloff);
    CHECK(s.outcomes[n].node == 1);
    CHECK(s.outcomes.back().reason.find("70 mm") != std::string::npos);
}

TEST_CASE("flat fields at other apertures borrow the mapping", "[calibration]") {
    std::vector<RunFrame> frames = found_frames();
    for (const int i : {13, 15}) {
        frames.push_back(frames[i]);
        frames.back().metadata.aperture = 2.8;
        frames.back().hash += "x";
    }
    const RunSolution s = solve(frames);
    REQUIRE(s.profile.nodes.size() == 2);
    CHECK(s.profile.nodes[1].setting.aperture == 2.8);
    CHECK(s.profile.nodes[1].mapping_from_aperture == 4);
    CHECK(s.profile.nodes[1].focal_mm == s.profile.nodes[0].focal_mm);
}

TEST_CASE("solving again after a dropped corner keeps the model and costs no choice", "[calibration]") {
    std::vector<RunFrame> frames = found_frames();
    const RunSolution first = solve(frames);
    frames[0].dropped_corners.emplace(frames[0].detection.corners[3].column, frames[0].detection.corners[3].row);
    SolveSettings settings;
    settings.chart = ChartSpec::parse(plain);
    settings.previous = &first;
    const RunSolution again = solve_run(frames, settings, Progress());
    CHECK(again.nodes[0].trials.empty());
    CHECK(again.nodes[0].lens.radial_terms == first.nodes[0].lens.radial_terms);
    CHECK(again.profile.nodes[0].quality.corners == first.profile.nodes[0].quality.corners - 1);
    CHECK(again.outcomes[0].view.points[3].by_hand);
}
