// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "calibration/resolution.h"
#include "charts/detect.h"
#include "commands.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct Options {
    std::string chart;
    std::vector<std::string> frames;
    bool json = false;
};

constexpr const char* plane_names[] = {"red", "green", "blue"};

struct Zone {
    const char* name;
    double low, high;  ///< field heights
};
constexpr Zone zones[] = {{"centre", 0, 0.3}, {"between", 0.3, 0.7}, {"outer", 0.7, 1.01}};

json point_json(const ResolutionPoint& p) {
    return {{"position", {p.place.x(), p.place.y()}},
            {"height", p.height},
            {"plane", plane_names[static_cast<int>(p.channel)]},
            {"direction", to_string(p.run)},
            {"angle_deg", p.angle_deg},
            {"mtf50", p.mtf50},
            {"sigma", p.sigma}};
}

json means_json(const std::vector<ResolutionPoint>& points) {
    json out = json::array();
    for (const Zone& zone : zones)
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
            }
    return out;
}

void print_means(const std::vector<ResolutionPoint>& points) {
    fmt::print("{:8} {:6} {:>12} {:>12}   MTF50, cycles per pixel (mean ± one sigma, edges)\n", "zone", "plane",
               "sagittal", "tangential");
    for (const Zone& zone : zones)
        for (const Channel channel : {Channel::red, Channel::green, Channel::blue}) {
            std::string cells[2];
            for (const LineRun run : {LineRun::sagittal, LineRun::tangential}) {
                const ResolutionMean m = mean_resolution(points, channel, run, zone.low, zone.high);
                cells[static_cast<int>(run)] =
                    m.count > 0 ? fmt::format("{:.3f} ± {:.3f}, {}", m.mtf50, m.sigma, m.count) : "-";
            }
            fmt::print("{:8} {:6} {:>20} {:>20}\n", zone.name, plane_names[static_cast<int>(channel)], cells[0],
                       cells[1]);
        }
}

/// Measures one frame; throws what is wrong with it.
ResolutionField measure(const std::string& frame, const ChartSpec& chart) {
    require_regular(frame);
    const MeasuringPicture picture = read_for_measuring(frame);
    const ChartDetection found = detect_chart(picture, chart, console_progress());
    if (!found.found())
        throw input_error(fmt::format("{} shows no chart like {}; check the chart's squares, or leave the frame out.",
                                      frame, chart.text()));
    return measure_resolution(picture, found, chart, console_progress());
}

void run(const Options& o) {
    const ChartSpec chart = ChartSpec::parse(o.chart);
    json frames = json::array();
    std::vector<ResolutionPoint> all;
    std::vector<std::string> problems;
    for (const std::string& frame : o.frames) {
        try {
            const ResolutionField field = measure(frame, chart);
            all.insert(all.end(), field.points.begin(), field.points.end());
            json points = json::array(), refused = json::object();
            for (const ResolutionPoint& p : field.points) points.push_back(point_json(p));
            for (const auto& [why, times] : field.refused) refused[why] = times;
            frames.push_back({{"frame", frame}, {"edges", field.edges}, {"points", points}, {"refused", refused}});
        } catch (const Error& error) {
            problems.emplace_back(error.what());
        }
    }
    if (o.json)
        print_json({{"chart", chart.text()}, {"frames", frames}, {"means", means_json(all)}});
    else if (!all.empty())
        print_means(all);
    fail_with(problems);
}

}  // namespace

void add_resolution(CLI::App& app) {
    auto* command = add_command(app, "resolution", "Measure MTF50 over the picture on the edges of chart frames",
                                "resolution --chart checker:15x10:30 --frames CH0001.dng CH0002.dng --json");
    auto o = std::make_shared<Options>();
    command->add_option("--chart", o->chart, "The chart, as checker:15x10:30 or coded:15x10:30 (mm)")->required();
    command->add_option("--frames", o->frames, "Frames of the chart")->required();
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli
