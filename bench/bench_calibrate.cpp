// SPDX-License-Identifier: GPL-3.0-or-later
// A whole run (13 chart frames, 4 flat fields) of 4 and of 24 megapixels, beside a general pipeline: demosaicing,
// whole-board corner search on a reduced picture, sub-pixel refinement and the standard solver of a general library, on
// the same frames in the same run. Frames are made by the rig in a temporary folder and kept for the next time.
#include <benchmark/benchmark.h>
#include <sys/resource.h>

#include <cstdio>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <opencv2/calib3d.hpp>
#include <opencv2/imgproc.hpp>

#include "calibration/run.h"
#include "rig/scenario.h"

namespace optrel::bench {
namespace {

namespace fs = std::filesystem;

/// Frames of the demo's calibration set with the picture `scale` times as large in each direction, by name.
std::vector<fs::path> frames_of(int megapixels, const char* prefix) {
    const fs::path folder = fs::temp_directory_path() / ("optrel-bench-" + std::to_string(megapixels) + "mp");
    nlohmann::json scenario = nlohmann::json::parse(rig::demo_scenario());
    nlohmann::json shots = nlohmann::json::array();
    for (const auto& shot : scenario["shots"])
        if (shot["folder"] == "calibration") shots.push_back(shot);
    scenario["shots"] = shots;
    if (megapixels == 24) {
        for (auto& body : scenario["bodies"]) body.update({{"width", 6000}, {"height", 4000}, {"pitch_um", 3.86}});
        for (auto& shot : scenario["shots"]) shot["blur_px"] = 0.9;
    }
    Progress progress;
    rig::make_frames(scenario.dump(), folder, progress);
    std::vector<fs::path> out;
    for (const auto& entry : fs::directory_iterator(folder / "calibration"))
        if (entry.path().filename().string().rfind(prefix, 0) == 0) out.push_back(entry.path());
    std::sort(out.begin(), out.end());
    return out;
}

void calibrate_optrel(benchmark::State& state) {
    const auto charts = frames_of(static_cast<int>(state.range(0)), "CH"),
               flats = frames_of(static_cast<int>(state.range(0)), "FF");
    SolveSettings settings;
    settings.chart = ChartSpec::parse("checker:15x10:30");
    for (auto _ : state) {
        Progress progress;
        std::vector<RunFrame> frames = measure_frames(charts, MeasureAs::chart, settings.chart, progress);
        std::vector<RunFrame> flat = measure_frames(flats, MeasureAs::flat, settings.chart, progress);
        frames.insert(frames.end(), flat.begin(), flat.end());
        const RunSolution s = solve_run(frames, settings, progress);
        state.counters["frames_used"] = s.profile.nodes.front().quality.frames_used;
        state.counters["held_out_rms_mpx"] = 1000 * s.profile.nodes.front().quality.held_out_rms_px;
    }
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    state.counters["peak_MB"] = usage.ru_maxrss / 1024.0;
}

void solve_again(benchmark::State& state) {
    const auto charts = frames_of(4, "CH");
    SolveSettings settings;
    settings.chart = ChartSpec::parse("checker:15x10:30");
    Progress progress;
    std::vector<RunFrame> frames = measure_frames(charts, MeasureAs::chart, settings.chart, progress);
    const RunSolution first = solve_run(frames, settings, progress);
    settings.previous = &first;
    frames[3].dropped = true;
    for (auto _ : state) benchmark::DoNotOptimize(solve_run(frames, settings, progress));
}

void calibrate_general(benchmark::State& state) {
    const auto charts = frames_of(static_cast<int>(state.range(0)), "CH");
    for (auto _ : state) {
        std::vector<std::vector<cv::Point3f>> boards;
        std::vector<std::vector<cv::Point2f>> corners;
        cv::Size size;
        for (const fs::path& path : charts) {
            const RawPicture raw = read_raw(path);
            cv::Mat colour, grey, small;
            cv::demosaicing(raw.counts, colour, cv::COLOR_BayerBG2BGR_EA);
            cv::cvtColor(colour, grey, cv::COLOR_BGR2GRAY);
            grey.convertTo(grey, CV_8U, 1 / 256.0);
            size = grey.size();
            const double reduce = std::max(1.0, size.width / 1250.0);
            cv::resize(grey, small, {}, 1 / reduce, 1 / reduce, cv::INTER_AREA);
            std::vector<cv::Point2f> found;
            if (!cv::findChessboardCorners(
                    small, {14, 9}, found,
                    cv::CALIB_CB_ADAPTIVE_THRESH | cv::CALIB_CB_NORMALIZE_IMAGE | cv::CALIB_CB_FAST_CHECK))
                continue;
            for (cv::Point2f& p : found) p = (p + cv::Point2f(0.5f, 0.5f)) * reduce - cv::Point2f(0.5f, 0.5f);
            cv::cornerSubPix(grey, found, {11, 11}, {-1, -1},
                             {cv::TermCriteria::EPS | cv::TermCriteria::MAX_ITER, 50, 1e-3});
            corners.push_back(found);
            boards.emplace_back();
            for (int r = 0; r < 9; ++r)
                for (int c = 0; c < 14; ++c) boards.back().emplace_back(30.f * c, 30.f * r, 0.f);
        }
        double rms = 0;
        if (corners.size() >= 3) {
            cv::Mat k, d;
            std::vector<cv::Mat> r, t;
            rms = cv::calibrateCamera(boards, corners, size, k, d, r, t);
        }
        state.counters["frames_used"] = static_cast<double>(corners.size());
        state.counters["rms_mpx"] = 1000 * rms;
    }
}

BENCHMARK(calibrate_optrel)
    ->Name("calibrate_13_frames/optrel")
    ->Arg(4)
    ->Arg(24)
    ->Iterations(1)
    ->UseRealTime()
    ->Unit(benchmark::kSecond);
BENCHMARK(calibrate_general)
    ->Name("calibrate_13_frames/general_pipeline")
    ->Arg(4)
    ->Arg(24)
    ->Iterations(1)
    ->UseRealTime()
    ->Unit(benchmark::kSecond);
BENCHMARK(solve_again)
    ->Name("solve_again_13_frames/optrel")
    ->Iterations(5)
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);

}  // namespace
}  // namespace optrel::bench
