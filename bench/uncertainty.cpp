// SPDX-License-Identifier: GPL-3.0-or-later
// Calibrates simulated sets of many lenses, noises and blurs and prints the error over the stated sigma for each
// quantity that has one, as Markdown.
//
//   optrel-uncertainty [SETS [FIRST]]     36 sets by default
//
// Each figure is the root of the mean square of (error / sigma) over all sets: 1 when one sigma is one sigma. Beside it
// stand the smallest and the largest of the sets' own.
#include <fmt/format.h>

#include <Eigen/Geometry>
#include <cmath>
#include <cstdio>
#include <map>
#include <nlohmann/json.hpp>
#include <random>

#include "calibration/run.h"
#include "optics/curves.h"
#include "optics/frame_map.h"
#include "optics/placement.h"
#include "optics/resolution_zones.h"
#include "optics/uncertainty.h"
#include "rig/scenario.h"
#include "support/photographed_wall.h"
#include "support/support.h"

namespace {

using nlohmann::json;
using namespace optrel;

constexpr double blurs[] = {0.32, 0.6, 1.4};
constexpr int isos[] = {100, 1600};
constexpr double pi = 3.14159265358979323846;

/// Squared errors over variances of one quantity, set by set.
class Tally {
public:
    void add(const std::string& quantity, double error, double sigma) {
        if (sigma > 0 && std::isfinite(error)) now_[quantity].push_back(std::pow(error / sigma, 2));
    }
    /// Tells the set's own ratios on standard error.
    void end_set(int number) {
        fmt::print(stderr, "set {}:", number);
        for (auto& [quantity, squares] : now_) {
            double mean = 0;
            for (const double s : squares) mean += s / static_cast<double>(squares.size());
            sets_[quantity].push_back(mean);
            fmt::print(stderr, " {} {:.2f};", quantity, std::sqrt(mean));
        }
        fmt::print(stderr, "\n");
        now_.clear();
    }
    void print() const {
        fmt::print("| quantity | sets | error / sigma | smallest, largest set |\n|---|--:|--:|--:|\n");
        for (const auto& [quantity, squares] : sets_) {
            double mean = 0;
            for (const double s : squares) mean += s / static_cast<double>(squares.size());
            const auto [low, high] = std::minmax_element(squares.begin(), squares.end());
            fmt::print("| {} | {} | {:.2f} | {:.2f}, {:.2f} |\n", quantity, squares.size(), std::sqrt(mean),
                       std::sqrt(*low), std::sqrt(*high));
        }
        std::fflush(stdout);
    }

private:
    std::map<std::string, std::vector<double>> now_, sets_;
};

/// Another lens, noise and blur for each number. Frames have the sensor's size and fewer pixels than the demo's, so
/// that many sets can be made.
json scenario_of(int number) {
    std::mt19937 random(4000 + number);
    std::uniform_real_distribution<double> u(-1, 1);
    json s = json::parse(rig::demo_scenario());
    json& lens = s["lens"];
    const double focal = 24 * std::pow(3.6, 0.5 + 0.5 * u(random)), wide = 35 / focal;
    lens["focal_mm"] = focal;
    lens["nominal_mm"] = std::round(focal);
    lens["division"] = {0.04 * u(random) - 0.02 * wide, 0.004 * u(random), 0.0005 * u(random)};
    lens["tilt"] = {0.001 * u(random), 0.001 * u(random)};
    lens["centre_mm"] = {0.1 * u(random), 0.1 * u(random)};
    for (const char* colour : {"red", "blue"}) {
        lens["stretch"][colour] = {4e-4 * u(random), 6e-4 * u(random)};
        lens["shift_mm"][colour] = {0.001 * u(random), 0.001 * u(random)};
    }
    lens["cosine_power"] = 3.5 + u(random);
    for (json& body : s["bodies"])
        if (body["id"] == "brimholt-a") body.update({{"width", 1848}, {"height", 1230}, {"pitch_um", 12.533}});
    json shots = json::array();
    for (json shot : s["shots"]) {
        if (shot["folder"] != "calibration") continue;
        shot["name"] = fmt::format("{}S{}", shot["name"].get<std::string>(), number);  // the name seeds the noise
        shot["iso"] = isos[number % 2];
        shot["blur_px"] = blurs[number / 2 % 3];
        if (shot["kind"] == "chart") shot["translation"][2] = shot["translation"][2].get<double>() * focal / 35.42;
        shots.push_back(shot);
    }
    s["shots"] = shots;
    return s;
}

void add_mapping(Tally& tally, const Profile& profile, const test::Truth& truth, const Vec2& tilt) {
    const ProfileNode& node = profile.nodes.front();
    const PictureGeometry& g = profile.geometry;
    const test::MapError error = test::compare(profile, truth);
    std::vector<Vec2> places;
    for (const test::TruthRay& r : truth.rays) places.push_back(r.frame);
    const std::vector<double> sigma = field_sigma_px(node, g, places, PointsOf::frame);
    for (std::size_t i = 0; i < places.size(); ++i)
        for (int axis = 0; axis < 2; ++axis) tally.add("mapping, an axis", error.off[i][axis], sigma[i]);
    if (node.covariance.rows() < 3) return;
    const double pitch = g.pitch_mm();
    // To first order a tilted element is a turn of the camera and a move of the perspective's centre.
    const Vec2 moved = truth.focal_px * tilt;
    tally.add("focal length", node.focal_mm - truth.focal_px * pitch, std::sqrt(node.covariance(0, 0)));
    for (int axis = 0; axis < 2; ++axis)
        tally.add("principal point, an axis", g.to_image(node.centre_mm)[axis] - truth.centre[axis] - moved[axis],
                  std::sqrt(node.covariance(axis + 1, axis + 1)) / pitch);
}

void add_colours_and_falloff(Tally& tally, const Profile& profile, const test::Truth& truth) {
    const PictureGeometry& g = profile.geometry;
    const ProfileNode& node = profile.nodes.front();
    const PlacedNode placed = measured_node(profile, 0);
    const FrameMap map(node, g, g);
    for (const test::TruthRay& t : truth.rays) {
        const Vec2 from_centre = t.frame - map.centre();
        const double radius = from_centre.norm();
        if (radius < 0.15 * g.middle().norm()) continue;
        const Vec2 out = from_centre / radius;
        for (const Channel c : {Channel::red, Channel::blue}) {
            const Vec2 true_shift = c == Channel::red ? t.red : t.blue;
            tally.add(c == Channel::red ? "red against green, radial" : "blue against green, radial",
                      (map.fringe(c, t.frame) - true_shift).dot(out),
                      chromatic_sigma_px(profile, placed, c, radius * g.pitch_mm()));
        }
        if (!node.falloff) continue;
        const double from_falloff = (g.to_sensor(t.frame) - node.falloff->centre_mm).norm();
        tally.add("falloff", std::log2(map.gain(Channel::green, t.frame) / t.gain[1]),
                  falloff_sigma_ev(profile, placed, Channel::green, from_falloff));
    }
}

/// Of a Gaussian blur and the square of a pixel, along the rows or columns.
double true_mtf50(double blur) {
    double low = 0, high = 0.7;
    for (int i = 0; i < 60; ++i) {
        const double f = 0.5 * (low + high), x = pi * f;
        (std::exp(-2 * x * x * blur * blur) * std::sin(x) / x > 0.5 ? low : high) = f;
    }
    return low;
}

void add_resolution(Tally& tally, const Profile& profile, double blur) {
    for (const ResolutionZone& zone : resolution_zones)
        for (const LineRun run : {LineRun::sagittal, LineRun::tangential}) {
            const ResolutionMean m =
                mean_of_cells(profile.nodes.front().resolution, Channel::green, run, zone.low, zone.high);
            if (m.count > 3) tally.add("MTF50 of a zone", m.mtf50 - true_mtf50(blur), m.sigma);
        }
}

void add_angles(Tally& tally, int number) {
    std::mt19937 random(700 + number);
    std::uniform_real_distribution<double> u(-1, 1);
    const CameraTurn turn{5 * u(random), 12 * u(random), 10 * u(random)};
    const FrameMap through = test::wall_lens(-0.15 * (number % 3) / 2);
    const auto photo = test::photograph(test::Wall(number), turn, through, 0.005 * (1 + number % 4), number);
    // A simulated wall is exact; a building's lines stand to about a fiftieth of a degree.
    std::vector<SceneLine> lines = test::lines_in(photo, through);
    std::normal_distribution<double> built(0, 0.02 * pi / 180);
    for (SceneLine& line : lines) line.normal = Eigen::AngleAxisd(built(random), Vec3::UnitZ()) * line.normal;
    const Straightened s = straighten(lines, TurnAngles::roll_pitch_yaw);
    tally.add("roll, pitch and yaw", s.turn.roll_deg - turn.roll_deg, s.sigma.roll_deg);
    tally.add("roll, pitch and yaw", s.turn.pitch_deg - turn.pitch_deg, s.sigma.pitch_deg);
    tally.add("roll, pitch and yaw", s.turn.yaw_deg - turn.yaw_deg, s.sigma.yaw_deg);
}

void add_set(Tally& tally, int number) {
    const json scenario = scenario_of(number);
    const test::TemporaryFolder folder;
    Progress progress;
    rig::make_frames(scenario.dump(), folder.path(), progress);
    std::vector<std::filesystem::path> paths;
    for (const json& shot : scenario["shots"])
        paths.push_back(folder / "calibration" / (shot["name"].get<std::string>() + ".dng"));
    SolveSettings settings;
    settings.chart = ChartSpec::parse("checker:15x10:30");
    const RunSolution solution =
        solve_run(measure_frames(paths, MeasureAs::automatic, settings.chart, progress), settings, progress);
    const test::Truth truth = test::read_truth(folder / "truth" / "lens-on-brimholt-a.json");
    const json& t = scenario["lens"]["tilt"];
    add_mapping(tally, solution.profile, truth, Vec2(t[0].get<double>(), t[1].get<double>()));
    add_colours_and_falloff(tally, solution.profile, truth);
    add_resolution(tally, solution.profile, scenario["shots"][0]["blur_px"]);
}

}  // namespace

int main(int argc, char** argv) {
    const int sets = argc > 1 ? std::atoi(argv[1]) : 36, first = argc > 2 ? std::atoi(argv[2]) : 0;
    Tally tally;
    for (int i = first; i < first + sets; ++i) {
        add_set(tally, i);
        add_angles(tally, i);
        tally.end_set(i);
        if (i % 6 == 5) tally.print();
    }
    tally.print();
}
