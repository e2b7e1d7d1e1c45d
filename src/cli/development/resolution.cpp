// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/files.h"
#include "calibration/resolution.h"
#include "charts/detect.h"
#include "cli/development/development_options.h"
#include "optics/resolution_zones.h"
#include "studio/development/chart_sharpness.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct ResolutionOptions {
    std::string chart, profile, store;
    CLI::Option* store_option = nullptr;
    bool anyway = false;
    double frequency = 0;  ///< 0: only MTF50
    std::vector<std::string> frames;
    bool json = false;
};

constexpr const char* plane_names[] = {"red", "green", "blue"};

json point_json(const ResolutionPoint& p, double frequency) {
    json out = {{"position", {p.place.x(), p.place.y()}},
                {"height", p.height},
                {"plane", plane_names[static_cast<int>(p.channel)]},
                {"direction", to_string(p.run)},
                {"angle_deg", p.angle_deg},
                {"mtf50", p.mtf50},
                {"sigma", p.sigma}};
    if (frequency > 0) out["mtf"] = p.modulation.at(frequency);
    return out;
}

json points_json(const std::vector<ResolutionPoint>& points, double frequency) {
    json out = json::array();
    for (const ResolutionPoint& p : points) out.push_back(point_json(p, frequency));
    return out;
}

json means_json(const std::vector<ResolutionPoint>& points, double frequency) {
    json out = json::array();
    for (const ResolutionZone& zone : resolution_zones)
        for (const Channel channel : {Channel::red, Channel::green, Channel::blue})
            for (const LineRun run : {LineRun::sagittal, LineRun::tangential}) {
                const ResolutionMean m = mean_resolution(points, channel, run, zone.low, zone.high);
                if (m.count == 0) continue;
                out.push_back({{"zone", zone.name},
                               {"plane", plane_names[static_cast<int>(channel)]},
                               {"direction", to_string(run)},
                               {"count", m.count},
                               {"mtf50", m.mtf50},
                               {"sigma", m.sigma},
                               {"spread", m.spread}});
                if (frequency > 0) out.back()["mtf"] = m.modulation.at(frequency);
            }
    return out;
}

void print_means(const std::vector<ResolutionPoint>& points, double frequency) {
    fmt::print("{:8} {:6} {:>26} {:>26}   MTF50, cycles per pixel (mean ± one sigma, edges){}\n", "zone", "plane",
               "sagittal", "tangential", frequency > 0 ? fmt::format("; MTF at {}", frequency) : "");
    for (const ResolutionZone& zone : resolution_zones)
        for (const Channel channel : {Channel::red, Channel::green, Channel::blue}) {
            std::string cells[2];
            for (const LineRun run : {LineRun::sagittal, LineRun::tangential}) {
                const ResolutionMean m = mean_resolution(points, channel, run, zone.low, zone.high);
                cells[static_cast<int>(run)] =
                    m.count > 0 ? fmt::format("{}, {}", figure_text(figures::modulation, m.mtf50, m.sigma), m.count)
                                : "-";
                if (m.count > 0 && frequency > 0)
                    cells[static_cast<int>(run)] += "; " + number_text(figures::modulation, m.modulation.at(frequency));
            }
            fmt::print("{:8} {:6} {:>26} {:>26}\n", zone.name, plane_names[static_cast<int>(channel)], cells[0],
                       cells[1]);
        }
}

/// Also measures the corrected picture, with --profile or --store; throws on errors.
ResolutionField measure_both(const std::string& frame, const ChartSpec& chart, const ResolutionOptions& o,
                             std::vector<ResolutionPoint>& after) {
    DevelopmentOptions development;
    development.frame = frame;
    development.profile = o.profile;
    development.store = o.store;
    development.store_option = o.store_option;
    development.anyway = o.anyway;
    ChartSharpness both = chart_sharpness(frame, development_of(development), chart, console_progress());
    after = std::move(both.after);
    return std::move(both.before);
}

/// Measures one frame; throws on errors.
ResolutionField measure(const std::string& frame, const ChartSpec& chart) {
    require_regular(frame);
    const MeasuringPicture picture = read_for_measuring(std::filesystem::path(frame));
    const ChartDetection found = detect_chart(picture, chart, console_progress());
    if (!found.found())
        throw input_error(fmt::format("{} shows no chart like {}; check the chart's squares, or leave the frame out.",
                                      frame, chart.text()));
    return measure_resolution(picture, found, chart, console_progress());
}

void run(const ResolutionOptions& o) {
    const ChartSpec chart = ChartSpec::parse(o.chart);
    const bool corrected = !o.profile.empty() || o.store_option->count() > 0;
    json frames = json::array();
    std::vector<ResolutionPoint> all, all_after;
    std::vector<std::string> problems;
    for (const std::string& frame : o.frames) {
        try {
            // Both or neither: a frame that cannot be corrected is left out of the means.
            std::vector<ResolutionPoint> after;
            const ResolutionField field = corrected ? measure_both(frame, chart, o, after) : measure(frame, chart);
            all.insert(all.end(), field.points.begin(), field.points.end());
            json refused = json::object();
            for (const auto& [why, times] : field.refused) refused[why] = times;
            json said = {{"frame", frame},
                         {"edges", field.edges},
                         {"points", points_json(field.points, o.frequency)},
                         {"refused", refused}};
            if (corrected) {
                all_after.insert(all_after.end(), after.begin(), after.end());
                said["after"] = points_json(after, o.frequency);
            }
            frames.push_back(std::move(said));
        } catch (const Error& error) {
            problems.emplace_back(error.what());
        }
    }
    if (o.json) {
        json out = {{"chart", chart.text()}, {"frames", frames}, {"means", means_json(all, o.frequency)}};
        if (o.frequency > 0) out["frequency"] = o.frequency;
        if (corrected) out["means_after"] = means_json(all_after, o.frequency);
        print_json(out);
    } else if (!all.empty()) {
        print_means(all, o.frequency);
        if (corrected) {
            fmt::print("\nafter the correction, before tones and sharpening:\n");
            print_means(all_after, o.frequency);
        }
    }
    fail_with(problems);
}

}  // namespace

void add_resolution(CLI::App& app) {
    auto* command = add_command(app, "resolution", "Measure MTF50 over the picture on the edges of chart frames",
                                "resolution --chart checker:15x10:30 --frames CH0001.dng CH0002.dng --json");
    auto o = std::make_shared<ResolutionOptions>();
    command->add_option("--chart", o->chart, "The chart, as checker:15x10:30 or coded:15x10:30 (mm)")->required();
    command->add_option("--frames", o->frames, "Frames of the chart")->required();
    command
        ->add_option("--frequency", o->frequency, "Also the modulation at this frequency, cycles per pixel (up to 0.5)")
        ->check(between(0.01, Modulation::highest));
    command->add_option("--profile", o->profile, "Also in the picture corrected by this profile");
    o->store_option = command->add_option("--store", o->store, "Also in the picture corrected as this store says");
    command->add_flag("--anyway", o->anyway, "With --profile: also when a frame's focal length is not the profile's");
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli
