// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/run.h"

#include <catch2/catch.hpp>
#include <opencv2/imgproc.hpp>

#include "base/files.h"
#include "calibration/grouping.h"
#include "calibration/run_json.h"
#include "support/pictures.h"
#include "support/rig_run.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const std::vector<RunFrame>& measured() { return measured_rig(); }

SolveSettings settings(const char* chart = "checker:15x10:30") {
    SolveSettings s;
    s.chart = ChartSpec::parse(chart);
    s.author = "tester";
    return s;
}

}  // namespace

TEST_CASE("the rig's frames are measured for all tests", "[.shared]") {
    REQUIRE(measured_rig().size() == 17);
    for (const RunFrame& f : measured_rig()) CHECK(f.measured());
    CHECK(fs::exists(solved_rig_profile()));
}

TEST_CASE("the rig's lens is recovered to a few thousandths of a pixel", "[calibration][accuracy]") {
    const RunSolution s = solve_run(measured(), settings(), Progress());
    const NodeQuality& q = s.profile.nodes.front().quality;
    CHECK(q.frames_used == 13);
    CHECK(q.frames_dropped == 0);
    CHECK(q.rms_px < 0.012);
    CHECK(q.held_out_rms_px < 0.013);
    CHECK(q.coverage > 0.95);
    CHECK(q.distortion_extreme_percent == Approx(-2.584).margin(0.02));
    const MapError error = compare(s.profile, rig_truth("brimholt-a"));
    CHECK(error.rms_px < 0.004);
    CHECK(error.largest_px < 0.025);
    CHECK(error.red_p95_px < 0.02);
    CHECK(error.blue_p95_px < 0.02);
    CHECK(error.gain_percent < 0.15);
    CHECK(q.max_sigma_px > error.rms_px / 4);  // the stated uncertainty is no fairy tale
    CHECK(q.max_sigma_px < 0.02);
}

TEST_CASE("the profile serves another body with another sensor", "[calibration][accuracy]") {
    const RunSolution s = solve_run(measured(), settings(), Progress());
    const Truth truth = rig_truth("tarnwick-a");
    Profile on_other = s.profile;
    const FrameMap map(s.profile.nodes.front(), s.profile.geometry, {truth.width, truth.height, 9.7});
    double largest = 0;
    for (const TruthPoint& p : truth.points) {
        const auto back = map.ideal(p.green);
        REQUIRE(back);
        // The same lens: both agree up to the focal length and centre, which the ideal grids share to a few px.
        largest = std::max(largest, (*back - p.ideal).norm());
    }
    CHECK(largest < 6);
}

TEST_CASE("chart frames and flat fields are told apart", "[calibration]") {
    for (const RunFrame& f : measured()) {
        CHECK(f.problem.empty());
        CHECK(f.role == (f.name()[0] == 'C' ? RunRole::chart : RunRole::flat));
        CHECK(f.hash.size() == 64);
    }
    CHECK(measure_frame(rig_frame("SP0001"), MeasureAs::automatic, ChartSpec::parse("checker:15x10:30"), Progress())
              .role == RunRole::neither);
}

TEST_CASE("a profile says who made it, from what", "[calibration]") {
    const RunSolution s = solve_run(measured(), settings(), Progress());
    CHECK(s.profile.lens == "Lumenfold 35mm f/2.8");
    CHECK(s.profile.lens_serial == "LF35-00482");
    CHECK(s.profile.camera == "Brimholt B2");
    CHECK(s.profile.provenance.author == "tester");
    CHECK(s.profile.provenance.chart == "checker:15x10:30");
    CHECK(s.profile.provenance.frames.size() == 17);
    CHECK(s.profile.provenance.frames[0].second == file_hash(rig_frame("CH0001")));
    CHECK(s.profile.nodes.front().setting.focal_mm == Approx(35));
}

TEST_CASE("a dropped frame is left out, and solving starts from the last solution", "[calibration]") {
    std::vector<RunFrame> frames = measured();
    const RunSolution all = solve_run(frames, settings(), Progress());
    frames[2].dropped = true;
    SolveSettings again = settings();
    again.previous = &all;
    const RunSolution fewer = solve_run(frames, again, Progress());
    CHECK(fewer.profile.nodes.front().quality.frames_used == 12);
    CHECK_FALSE(fewer.outcomes[2].used);
    CHECK(fewer.outcomes[2].reason.find("by hand") != std::string::npos);
    CHECK(fewer.nodes[0].lens.focal_px == Approx(all.nodes[0].lens.focal_px).epsilon(2e-4));
}

TEST_CASE("a wrong square count is told with the right one", "[calibration]") {
    const std::string sentence = sentence_of([] { solve_run(measured(), settings("checker:13x9:30"), Progress()); });
    INFO(sentence);
    CHECK(is_one_sentence(sentence));
    CHECK(sentence.find("15 x 10") != std::string::npos);
    CHECK(sentence_of([] { solve_run(measured(), settings("checker:18x12:30"), Progress()); }).find("15 x 10") !=
          std::string::npos);
    CHECK_NOTHROW(
        solve_run(measured(), settings("checker:10x15:30"), Progress()));  // turned by 90 degrees it is the same board
}

TEST_CASE("frames that do not belong are left out with the reason", "[calibration]") {
    std::vector<RunFrame> frames = measured();
    frames[1].metadata.focal_mm = 50;
    frames[3].metadata.aperture = 8;
    frames[4].width = 1000;
    frames[5].metadata.body_serial = "other";
    const RunSolution s = solve_run(frames, settings(), Progress());
    CHECK(s.profile.nodes.front().quality.frames_used == 9);
    for (const int i : {1, 3, 4, 5}) {
        CHECK_FALSE(s.outcomes[i].used);
        CHECK(is_one_sentence(s.outcomes[i].reason));
    }
    CHECK(s.outcomes[1].reason.find("50 mm") != std::string::npos);
    CHECK(s.outcomes[3].reason.find("f/8") != std::string::npos);
    int said = 0;
    for (const Finding& f : s.findings) said += f.text.find("Left out") == 0;
    CHECK(said == 4);
}

TEST_CASE("a run without any chart is refused in one sentence", "[calibration]") {
    Progress progress;
    const std::vector<RunFrame> frames = measure_frames({rig_frame("SP0001"), rig_frame("SP0002")}, MeasureAs::chart,
                                                        ChartSpec::parse("checker:15x10:30"), progress);
    const std::string sentence = sentence_of([&] { solve_run(frames, settings(), Progress()); });
    INFO(sentence);
    CHECK(is_one_sentence(sentence));
    CHECK(error_of([&] { solve_run({}, settings(), Progress()); }) == "input");
}

TEST_CASE("frames that cannot be read are noted, the others go on", "[calibration]") {
    const TemporaryFolder folder;
    write_bytes(folder / "empty.dng", "");
    write_bytes(folder / "cut.dng", read_file(rig_frame("CH0002")).substr(0, 3000000));
    Progress progress;
    std::vector<RunFrame> bad = measure_frames({folder / "empty.dng", folder / "cut.dng", folder / "missing.dng"},
                                               MeasureAs::chart, ChartSpec::parse("checker:15x10:30"), progress);
    for (const RunFrame& f : bad) CHECK(is_one_sentence(f.problem));
    std::vector<RunFrame> frames = measured();
    frames.insert(frames.end(), bad.begin(), bad.end());
    const RunSolution s = solve_run(frames, settings(), Progress());
    CHECK(s.profile.nodes.front().quality.frames_used == 13);
    CHECK(s.profile.nodes.front().quality.frames_dropped == 3);
}

TEST_CASE("clipped and dark flat fields are refused, and falloff is then missing, not wrong", "[calibration]") {
    std::vector<RunFrame> frames = measured();
    for (RunFrame& f : frames)
        if (f.role == RunRole::flat)
            f.problem =
                f.name() +
                " is clipped in 30 % of its area (limit 2 %); expose flat fields at about half of the white level.";
    const RunSolution s = solve_run(frames, settings(), Progress());
    // The white squares are a marked second best.
    REQUIRE(s.profile.nodes.front().falloff);
    CHECK(s.profile.nodes.front().falloff->from_chart);
    CHECK(compare(s.profile, rig_truth("brimholt-a")).gain_percent < 3);
    bool said = false;
    for (const Finding& f : s.findings) said = said || f.text.find("second best") != std::string::npos;
    CHECK(said);
}

TEST_CASE("rendered chart frames are welcome, rendered flats are not", "[calibration]") {
    const TemporaryFolder folder;
    std::vector<fs::path> pictures;
    for (const fs::path& path : rig_frames("CH")) {
        const RawPicture raw = read_raw(path);
        cv::Mat colour, grey8;
        cv::demosaicing(raw.counts, colour, cv::COLOR_BayerBG2BGR);
        cv::Mat3b eight(colour.size());
        for (int row = 0; row < colour.rows; ++row)
            for (int i = 0; i < colour.cols; ++i)
                for (int c = 0; c < 3; ++c) {
                    const double v =
                        std::max(0.0, (colour.at<cv::Vec3w>(row, i)[c] - 2048) / 60952.0 * (c == 1 ? 1 : 1.6));
                    eight(row, i)[c] = cv::saturate_cast<uchar>(255 * std::pow(v, 1 / 2.2));
                }
        pictures.push_back(folder / (path.stem().string() + ".jpg"));
        write_picture(pictures.back(), eight);
    }
    Progress progress;
    std::vector<RunFrame> frames =
        measure_frames(pictures, MeasureAs::chart, ChartSpec::parse("checker:15x10:30"), progress);
    SolveSettings s = settings();
    s.pitch_um = 9.4;
    const RunSolution solution = solve_run(frames, s, Progress());
    CHECK(solution.profile.nodes.front().quality.frames_used >= 12);
    const MapError error = compare(solution.profile, rig_truth("brimholt-a"));
    CHECK(error.rms_px < 0.02);
    CHECK(error.largest_px < 0.12);
    const RunFrame flat = measure_frame(pictures[0], MeasureAs::flat, ChartSpec::parse("checker:15x10:30"), Progress());
    CHECK(is_one_sentence(flat.problem));
    CHECK(flat.problem.find("raw") != std::string::npos);
}

TEST_CASE("measuring can be cancelled", "[calibration]") {
    Progress progress;
    progress.cancel();
    CHECK_THROWS_AS(measure_frames(rig_frames("CH"), MeasureAs::chart, ChartSpec::parse("checker:15x10:30"), progress),
                    Cancelled);
    CHECK_THROWS_AS(solve_run(measured(), settings(), progress), Cancelled);
}

TEST_CASE("too little tilt and uncovered corners are findings with figures", "[calibration]") {
    std::vector<RunFrame> frames = measured();
    for (std::size_t i = 5; i < 13; ++i) frames[i].dropped = true;  // the corners and the tilted ones
    const RunSolution s = solve_run(frames, settings(), Progress());
    bool tilt = false, corners = false;
    for (const Finding& f : s.findings) {
        tilt = tilt || (f.serious && f.text.find("tilted") != std::string::npos && !f.remedy.empty());
        corners = corners || (f.serious && f.text.find("corners of the picture") != std::string::npos);
    }
    CHECK(tilt);
    CHECK(corners);
}

TEST_CASE("a measured frame survives its text", "[calibration]") {
    for (const std::size_t i : {std::size_t(0), std::size_t(13)}) {
        const RunFrame& f = measured()[i];
        const std::string text = run_frame_to_json(f);
        const RunFrame back = run_frame_from_json(text, "a run");
        CHECK(run_frame_to_json(back) == text);
        CHECK(back.detection.corners.size() == f.detection.corners.size());
        CHECK(back.flat.blocks.size() == f.flat.blocks.size());
    }
    std::vector<RunFrame> restored;
    for (const RunFrame& f : measured()) restored.push_back(run_frame_from_json(run_frame_to_json(f), "a run"));
    CHECK(solve_run(restored, settings(), Progress()).nodes[0].lens.focal_px ==
          Approx(solve_run(measured(), settings(), Progress()).nodes[0].lens.focal_px).epsilon(1e-9));
    for (const char* bad : {"", "{", "[]", "{\"path\":3}"})
        CHECK(error_of([&] { run_frame_from_json(bad, "run 3"); }) == "store");
}

TEST_CASE("frames are sorted by body and lens, and their lens settings counted", "[calibration]") {
    Metadata a;
    a.model = "B2";
    a.body_serial = "1";
    a.lens = "L";
    a.focal_mm = 35;
    a.aperture = 4;
    Metadata b = a, c = a, d = a, e = a;
    b.aperture = 8;
    c.body_serial = "2";
    d.focal_mm = 50;
    e.lens_serial = "other copy";
    const auto groups = group_frames({{"1", a}, {"2", b}, {"3", a}, {"4", c}, {"5", d}, {"6", e}});
    REQUIRE(groups.size() == 3);
    CHECK(groups[0].paths == std::vector<fs::path>{"1", "2", "3", "5"});
    CHECK(groups[0].label.find("3 lens settings") != std::string::npos);
    CHECK(groups[1].label.find("f/4") != std::string::npos);
    CHECK(group_frames({{"x", Metadata{}}})[0].label.find("unknown camera") == 0);
    CHECK(group_frames({}).empty());
}
