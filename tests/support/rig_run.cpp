// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/rig_run.h"

#include <nlohmann/json.hpp>

#include "base/files.h"
#include "calibration/run_json.h"

namespace optrel::test {
namespace {

fs::path kept() { return fs::path(OPTREL_TEST_FRAMES) / "measured.json"; }

bool is_current(const fs::path& file) {
    std::error_code none;
    const auto when = fs::last_write_time(file, none);
    return !none && when > fs::last_write_time("/proc/self/exe") && when > fs::last_write_time(rig_frame("CH0001"));
}

std::vector<RunFrame> read_kept() {
    std::vector<RunFrame> out;
    for (const nlohmann::json& j : nlohmann::json::parse(read_file(kept())))
        out.push_back(run_frame_from_json(j.get<std::string>(), "the measured frames of the tests"));
    return out;
}

std::vector<RunFrame> measure_and_keep() {
    Progress progress;
    std::vector<fs::path> paths = rig_frames("CH");
    for (const fs::path& p : rig_frames("FF")) paths.push_back(p);
    std::vector<RunFrame> out =
        measure_frames(paths, MeasureAs::automatic, ChartSpec::parse("checker:15x10:30"), progress);
    nlohmann::json texts = nlohmann::json::array();
    for (const RunFrame& f : out) texts.push_back(run_frame_to_json(f));
    write_atomic(kept(), texts.dump());
    return out;
}

}  // namespace

const std::vector<RunFrame>& measured_rig() {
    static const std::vector<RunFrame> frames = is_current(kept()) ? read_kept() : measure_and_keep();
    return frames;
}

const fs::path& solved_rig_profile() {
    static const fs::path file = [] {
        fs::path path = fs::path(OPTREL_TEST_FRAMES) / "solved.json";
        if (!is_current(path)) {
            const RigRun run = measured_rig_run("A. Tester");
            write_atomic(path, profile_to_json(solve_run(run.frames, run.settings, Progress()).profile));
        }
        return path;
    }();
    return file;
}

RigRun measured_rig_run(const std::string& author) {
    RigRun out;
    out.frames = measured_rig();
    out.settings.chart = ChartSpec::parse("checker:15x10:30");
    out.settings.author = author;
    return out;
}

}  // namespace optrel::test
