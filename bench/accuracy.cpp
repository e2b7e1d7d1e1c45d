// SPDX-License-Identifier: GPL-3.0-or-later
// Calibrates simulated sets of several kinds and prints how far each result is from the truth, as Markdown.
//
//   optrel-accuracy [WORDS]     only sets whose name contains the words
//
// Each set has 13 frames of a 15 x 10 board, partly out of the picture, and 4 flat fields. The mapping is compared over
// the whole picture, corners included, up to a plane homography (for fisheyes: a rotation). Beside it stands what the
// corners' own noise allows: the Cramer-Rao bound of the set for the model that was taken.
#include <fmt/format.h>

#include <cmath>

#include <cstdio>
#include <functional>
#include <nlohmann/json.hpp>

#include "calibration/run.h"
#include "optics/frame_map.h"
#include "optics/uncertainty.h"
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

/// The chart in a direction (x, y, 1), facing the lens, turned a little more.
json facing(double x, double y, double distance, double turn = 0, double tip = 0) {
    const double n = std::sqrt(x * x + y * y + 1), degree = 57.29577951308232;
    return {{"rotation", {-degree * std::asin(y / n) + tip, degree * std::atan2(x, 1) + turn, 3}},
            {"translation", {distance * x / n, distance * y / n, distance / n}}};
}

void fisheye(json& scenario, const char* projection, double focal) {
    scenario["lens"]["projection"] = projection;
    scenario["lens"]["focal_mm"] = focal;
    scenario["lens"]["nominal_mm"] = std::round(focal);
    scenario["lens"]["division"] = {-0.01, 0.004, 0};
    scenario["lens"]["cosine_power"] = 1.2;
    const json poses[] = {facing(0, 0, 200),
                          facing(0, 0, 160),
                          facing(1, 0, 200),
                          facing(-1, 0, 200),
                          facing(0, 0.8, 190),
                          facing(0, -0.8, 190),
                          facing(2.3, 1.5, 170),
                          facing(-2.3, 1.5, 170),
                          facing(2.3, -1.5, 170),
                          facing(-2.3, -1.5, 170),
                          facing(0, 0, 230, 0, 35),
                          facing(0, 0, 230, 35, 0),
                          facing(0.3, 0.2, 230, 15, -30)};
    int k = 0;
    every_shot(scenario, [&](json& shot) {
        if (shot["kind"] == "chart") shot.update(poses[k++]);
    });
}

const std::vector<Kind> kinds{
    {"35 mm, 2.6 % barrel, ISO 100", [](json&) {}},
    {"the same, very sharp (blur 0.28 px)", [](json& s) { every_shot(s, [](json& shot) { shot["blur_px"] = 0.28; }); }},
    {"the same, soft (blur 2 px)", [](json& s) { every_shot(s, [](json& shot) { shot["blur_px"] = 2.0; }); }},
    {"the same, ISO 3200", [](json& s) { every_shot(s, [](json& shot) { shot["iso"] = 3200; }); }},
    {"the same, three stops dark at ISO 800",
     [](json& s) { every_shot(s, [](json& shot) { shot["iso"] = 800, shot["level"] = 0.09; }); }},
    {"18 mm, 6 % barrel",
     [](json& s) {
         s["lens"]["focal_mm"] = 18.2;
         s["lens"]["nominal_mm"] = 18;
         s["lens"]["division"] = {-0.075, 0.006, 0.0008};
         scale_distance(s, 0.52);
     }},
    {"14 mm, strong barrel",
     [](json& s) {
         s["lens"]["focal_mm"] = 14.2;
         s["lens"]["nominal_mm"] = 14;
         s["lens"]["division"] = {-0.16, 0.012, 0.0015};
         s["lens"]["cosine_power"] = 2.6;
         scale_distance(s, 0.37);
     }},
    {"24 mm, wavy distortion",
     [](json& s) {
         s["lens"]["focal_mm"] = 24.3;
         s["lens"]["nominal_mm"] = 24;
         s["lens"]["division"] = {-0.09, 0.075, -0.012};
         every_shot(s, [](json& shot) {
             if (shot["kind"] != "chart") return;
             const std::array<double, 3> t = shot["translation"];
             shot["translation"] = {1.25 * t[0], 1.25 * t[1], 0.69 * t[2]};
         });
     }},
    {"fisheye, 150 degrees, equisolid", [](json& s) { fisheye(s, "equisolid", 11.43); }},
    {"fisheye, 150 degrees, stereographic", [](json& s) { fisheye(s, "stereographic", 9.06); }},
    {"35 mm, coded chart", [](json& s) { s["chart"]["coded"] = true; }},
    {"35 mm, chart bowed by 1.2 mm and stretched by 0.1 %",
     [](json& s) {
         s["chart"].update({{"bow_mm", 1.2}, {"stretch_y", 0.001}});
     }},
    {"100 mm, 0.6 % pincushion",
     [](json& s) {
         s["lens"]["focal_mm"] = 102;
         s["lens"]["nominal_mm"] = 100;
         s["lens"]["division"] = {0.006, 0.0002, 0};
         scale_distance(s, 2.9);
     }},
};

/// RMS over the picture (px) that no estimator could go below, given the corners' own covariances.
double bound_px(const RunSolution& solution) {
    std::vector<View> views;
    for (const FrameOutcome& o : solution.outcomes)
        if (o.used && !o.view.points.empty()) views.push_back(o.view);
    LensSolution lens = solution.nodes[0].lens;
    AdjustOptions options;
    options.floor_px = 1e-5;
    options.iterations = 3;
    options.covariance = true;
    const PictureGeometry& g = solution.profile.geometry;
    // The model that was taken, and no more: the next term is known to a millionth of the corner's radius.
    options.next_term_sigma = 1e-6 / std::pow(g.middle().norm() / lens.focal_px, 2 * (lens.radial_terms + 1));
    if (!adjust(views, lens, g.middle(), options)) return std::nan("");
    ProfileNode node = solution.profile.nodes[0];
    Eigen::VectorXd unit = Eigen::VectorXd::Ones(lens.covariance.rows());
    unit.head<3>().setConstant(g.pitch_mm());
    node.covariance = unit.asDiagonal() * lens.covariance * unit.asDiagonal();
    double sum = 0;
    int n = 0;
    for (const double s : field_sigma_px(node, g, picture_grid(g, 31, 21), PointsOf::frame))
        if (s > 0) {
            sum += 2 * s * s;  // both axes
            ++n;
        }
    return std::sqrt(sum / std::max(1, n));
}

}  // namespace

int main(int argc, char** argv) {
    fmt::print(
        "| set | frames used | model | mapping RMS / px | its bound / px | mapping largest / px | red 95 % / px | blue "
        "95 % / px | gain largest / % |\n|---|--:|---|--:|--:|--:|--:|--:|--:|\n");
    for (const Kind& kind : kinds) {
        if (argc > 1 && std::string(kind.name).find(argv[1]) == std::string::npos) continue;
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
        for (const json& shot : shots)
            paths.push_back(folder / "calibration" / (shot["name"].get<std::string>() + ".dng"));
        SolveSettings settings;
        settings.chart =
            ChartSpec::parse(scenario["chart"].value("coded", false) ? "coded:15x10:30" : "checker:15x10:30");
        const RunSolution solution =
            solve_run(measure_frames(paths, MeasureAs::automatic, settings.chart, progress), settings, progress);
        const test::MapError error =
            test::compare(solution.profile, test::read_truth(folder / "truth" / "lens-on-brimholt-a.json"));
        std::string model = to_string(solution.profile.nodes.front().model.kind());
        for (const ModelTrial& t : solution.nodes.front().trials)
            if (t.taken) model = t.name();
        fmt::print("| {} | {} of 13 | {} | {:.4f} | {:.4f} | {:.4f} | {:.4f} | {:.4f} | {:.2f} |\n", kind.name,
                   solution.profile.nodes.front().quality.frames_used, model, error.rms_px, bound_px(solution),
                   error.largest_px, error.red_p95_px, error.blue_p95_px, error.gain_percent);
        std::fflush(stdout);
    }
}
