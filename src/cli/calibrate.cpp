#include <fmt/format.h>

#include <chrono>

#include "base/files.h"
#include "calibration/run.h"
#include "commands.h"

namespace optrel::cli {
namespace {

struct Options {
    std::string chart, out, author;
    std::vector<std::string> frames, flats;
    double pitch_um = 0;
    bool json = false;
};

nlohmann::json report(const std::vector<RunFrame>& frames, const RunSolution& s, double seconds) {
    using nlohmann::json;
    const ProfileNode& node = s.profile.nodes.front();
    const NodeQuality& q = node.quality;
    json dropped = json::array(), views = json::array(), findings = json::array();
    int flats = 0;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        if (!s.outcomes[i].used) {
            dropped.push_back({{"frame", frames[i].path.string()}, {"reason", s.outcomes[i].reason}});
        } else if (frames[i].role == RunRole::chart) {
            views.push_back({{"frame", frames[i].path.string()},
                             {"rms_px", s.outcomes[i].view.rms_px},
                             {"corners", s.outcomes[i].view.points.size()},
                             {"tilt_degrees", s.outcomes[i].view.tilt_degrees()}});
        } else {
            ++flats;
        }
    }
    for (const Finding& f : s.findings) findings.push_back({{"text", f.text}, {"remedy", f.remedy}, {"serious", f.serious}});
    json out = {{"frames_used", q.frames_used},
                {"frames_dropped", dropped},
                {"flats_used", flats},
                {"frames", views},
                {"corners", q.corners},
                {"rms_px", q.rms_px},
                {"held_out_rms_px", q.held_out_rms_px},
                {"model", to_string(node.model.kind())},
                {"coefficients", node.model.coefficients()},
                {"focal_px", s.lens.focal_px},
                {"centre", {s.lens.centre_px.x(), s.lens.centre_px.y()}},
                {"size", {s.profile.geometry.width, s.profile.geometry.height}},
                {"pitch_um", s.profile.geometry.pitch_um},
                {"coverage", q.coverage},
                {"largest_field_height", q.largest_height},
                {"max_sigma_px", q.max_sigma_px},
                {"distortion_extreme_percent", q.distortion_extreme_percent},
                {"findings", findings},
                {"seconds", seconds}};
    for (const auto& [name, fringe] : {std::pair("red", &node.red), std::pair("blue", &node.blue)})
        if (*fringe) out["fringe"][name] = {{"c", {(*fringe)->c0, (*fringe)->c1, (*fringe)->c2}}, {"residual_p95_px", (*fringe)->residual_p95_px}};
    if (node.falloff)
        out["falloff"] = {{"green", node.falloff->a[1]}, {"centre_measured", node.falloff->centre_measured}, {"residual_percent", node.falloff->residual_percent}};
    return out;
}

void run(const Options& o) {
    const auto began = std::chrono::steady_clock::now();
    Progress& progress = console_progress();
    SolveSettings settings;
    settings.chart = ChartSpec::parse(o.chart);
    settings.pitch_um = o.pitch_um;
    settings.author = o.author;
    std::vector<RunFrame> frames = measure_frames({o.frames.begin(), o.frames.end()}, MeasureAs::chart, progress);
    std::vector<RunFrame> flats = measure_frames({o.flats.begin(), o.flats.end()}, MeasureAs::flat, progress);
    frames.insert(frames.end(), std::make_move_iterator(flats.begin()), std::make_move_iterator(flats.end()));
    const RunSolution solution = solve_run(frames, settings, progress);
    write_atomic(o.out, profile_to_json(solution.profile));
    const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
    if (o.json) {
        print_json(report(frames, solution, seconds));
        return;
    }
    const NodeQuality& q = solution.profile.nodes.front().quality;
    fmt::print("{}: {} of {} frames used, {} corners, RMS {:.4f} px, held out {:.4f} px, {:.1f} s\n", solution.profile.name, q.frames_used,
               o.frames.size(), q.corners, q.rms_px, q.held_out_rms_px, seconds);
    fmt::print("focal length {:.3f} mm, distortion {:+.3f} %, uncertainty up to {:.4f} px\n", solution.profile.nodes.front().focal_mm,
               q.distortion_extreme_percent, q.max_sigma_px);
    for (const Finding& f : solution.findings) fmt::print("{} {}{}{}\n", f.serious ? "!" : "-", f.text, f.remedy.empty() ? "" : " ", f.remedy);
}

}  // namespace

void add_calibrate(CLI::App& app) {
    auto* command = app.add_subcommand("calibrate", "Measure a lens from chart frames and flat fields");
    auto o = std::make_shared<Options>();
    command->add_option("--chart", o->chart, "The chart: checker:ACROSSxDOWN:MM in squares and millimetres")->required();
    command->add_option("--frames", o->frames, "Chart frames (raw or rendered)")->required();
    command->add_option("--flats", o->flats, "Flat fields (raw)");
    command->add_option("--out", o->out, "The profile to write (JSON)")->required();
    command->add_option("--pitch-um", o->pitch_um, "Pixel pitch in micrometres, when the frames do not record it")->check(CLI::PositiveNumber);
    command->add_option("--author", o->author, "Who measured");
    command->add_flag("--json", o->json, "Print the figures as JSON");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli
