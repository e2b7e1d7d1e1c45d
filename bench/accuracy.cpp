// Calibrates simulated sets of several kinds and prints how far each result is from the truth, as Markdown.
//
//   optrel-accuracy
//
// Each set has the demo's poses: 13 frames of a 15 x 10 board, partly out of the picture, and 4 flat fields. The mapping is
// compared over the whole picture, corners included, up to a plane homography.
#include <fmt/format.h>

#include <cstdio>
#include <functional>
#include <nlohmann/json.hpp>

#include "calibration/run.h"
#include "rig/scenario.h"
#include "support/support.h"

namespace {

using nlohmann::json;
using namespace optrel;

struct Kind {
    const char* name;
    std::function<void(json&)> change;
};

void every_shot(json& scenario, const std::function<void(json&)>& change) {
    for (json& shot : scenario["shots"]) change(shot);
}

void scale_distance(json& scenario, double factor) {
    every_shot(scenario, [&](json& shot) {
        if (shot["kind"] == "chart") shot["translation"][2] = factor * shot["translation"][2].get<double>();
    });
}

const std::vector<Kind> kinds{
    {"35 mm, 2.6 % barrel, ISO 100", [](json&) {}},
    {"the same, very sharp (blur 0.28 px)", [](json& s) { every_shot(s, [](json& shot) { shot["blur_px"] = 0.28; }); }},
    {"the same, soft (blur 2 px)", [](json& s) { every_shot(s, [](json& shot) { shot["blur_px"] = 2.0; }); }},
    {"the same, ISO 3200", [](json& s) { every_shot(s, [](json& shot) { shot["iso"] = 3200; }); }},
    {"the same, three stops dark at ISO 800", [](json& s) { every_shot(s, [](json& shot) { shot["iso"] = 800, shot["level"] = 0.09; }); }},
    {"18 mm, 6 % barrel", [](json& s) {
         s["lens"]["focal_mm"] = 18.2;
         s["lens"]["nominal_mm"] = 18;
         s["lens"]["division"] = {-0.075, 0.006, 0.0008};
         scale_distance(s, 0.52);
     }},
    {"100 mm, 0.6 % pincushion", [](json& s) {
         s["lens"]["focal_mm"] = 102;
         s["lens"]["nominal_mm"] = 100;
         s["lens"]["division"] = {0.006, 0.0002, 0};
         scale_distance(s, 2.9);
     }},
};

}  // namespace

int main() {
    fmt::print("| set | frames used | mapping RMS / px | mapping largest / px | red 95 % / px | blue 95 % / px | gain largest / % |\n|---|--:|--:|--:|--:|--:|--:|\n");
    for (const Kind& kind : kinds) {
        const test::TemporaryFolder folder;
        json scenario = json::parse(rig::demo_scenario());
        json shots = json::array();
        for (const json& shot : scenario["shots"])
            if (shot["folder"] == "calibration") shots.push_back(shot);
        scenario["shots"] = shots;
        kind.change(scenario);
        Progress progress;
        rig::make_frames(scenario.dump(), folder.path(), progress);
        std::vector<std::filesystem::path> paths;
        for (const json& shot : shots) paths.push_back(folder / "calibration" / (shot["name"].get<std::string>() + ".dng"));
        SolveSettings settings;
        settings.chart = ChartSpec::parse("checker:15x10:30");
        const RunSolution solution = solve_run(measure_frames(paths, MeasureAs::automatic, ChartSpec::parse("checker:15x10:30"), progress), settings, progress);
        const test::MapError error = test::compare(solution.profile, test::read_truth(folder / "truth" / "lens-on-brimholt-a.json"));
        fmt::print("| {} | {} of 13 | {:.4f} | {:.4f} | {:.4f} | {:.4f} | {:.2f} |\n", kind.name, solution.profile.nodes.front().quality.frames_used, error.rms_px, error.largest_px,
                   error.red_p95_px, error.blue_p95_px, error.gain_percent);
        std::fflush(stdout);
    }
}
