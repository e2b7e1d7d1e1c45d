// A whole run (13 chart frames of 4 megapixels, 4 flat fields), beside a general pipeline: demosaicing, whole-board corner search
// and the standard solver of a general library, on the frames of the same run. Frames are made by the rig in a temporary folder.
#include <benchmark/benchmark.h>
#include <sys/resource.h>

#include <cstdio>
#include <filesystem>
#include <opencv2/calib3d.hpp>
#include <opencv2/imgproc.hpp>

#include "calibration/run.h"
#include "rig/scenario.h"

namespace optrel::bench {
namespace {

namespace fs = std::filesystem;

std::vector<fs::path> demo_frames(const char* prefix) {
    static const fs::path folder = [] {
        const fs::path out = fs::temp_directory_path() / "optrel-bench-frames";
        Progress progress;
        rig::make_frames(rig::demo_scenario(), out, progress);
        return out / "calibration";
    }();
    std::vector<fs::path> out;
    for (const auto& entry : fs::directory_iterator(folder))
        if (entry.path().filename().string().rfind(prefix, 0) == 0) out.push_back(entry.path());
    std::sort(out.begin(), out.end());
    return out;
}

void calibrate_optrel(benchmark::State& state) {
    const auto charts = demo_frames("CH"), flats = demo_frames("FF");
    SolveSettings settings;
    settings.chart = ChartSpec::parse("checker:15x10:30");
    for (auto _ : state) {
        Progress progress;
        std::vector<RunFrame> frames = measure_frames(charts, MeasureAs::chart, ChartSpec::parse("checker:15x10:30"), progress);
        std::vector<RunFrame> flat = measure_frames(flats, MeasureAs::flat, ChartSpec::parse("checker:15x10:30"), progress);
        frames.insert(frames.end(), flat.begin(), flat.end());
        const RunSolution s = solve_run(frames, settings, progress);
        state.counters["frames_used"] = s.profile.nodes.front().quality.frames_used;
        state.counters["held_out_rms_mpx"] = 1000 * s.profile.nodes.front().quality.held_out_rms_px;
    }
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    state.counters["peak_MB"] = usage.ru_maxrss / 1024.0;
}

void calibrate_general(benchmark::State& state) {
    const auto charts = demo_frames("CH");
    for (auto _ : state) {
        std::vector<std::vector<cv::Point3f>> boards;
        std::vector<std::vector<cv::Point2f>> corners;
        cv::Size size;
        for (const fs::path& path : charts) {
            const RawPicture raw = read_raw(path);
            cv::Mat colour, grey;
            cv::demosaicing(raw.counts, colour, cv::COLOR_BayerBG2BGR_EA);
            cv::cvtColor(colour, grey, cv::COLOR_BGR2GRAY);
            grey.convertTo(grey, CV_8U, 1 / 256.0);
            size = grey.size();
            std::vector<cv::Point2f> found;
            if (!cv::findChessboardCorners(grey, {14, 9}, found, cv::CALIB_CB_ADAPTIVE_THRESH | cv::CALIB_CB_NORMALIZE_IMAGE | cv::CALIB_CB_FAST_CHECK)) continue;
            cv::cornerSubPix(grey, found, {11, 11}, {-1, -1}, {cv::TermCriteria::EPS | cv::TermCriteria::MAX_ITER, 50, 1e-3});
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

BENCHMARK(calibrate_optrel)->Name("calibrate_13_frames/optrel")->Iterations(1)->UseRealTime()->Unit(benchmark::kSecond);
BENCHMARK(calibrate_general)->Name("calibrate_13_frames/general_pipeline")->Iterations(1)->UseRealTime()->Unit(benchmark::kSecond);

}  // namespace
}  // namespace optrel::bench
