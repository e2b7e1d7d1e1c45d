// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli colour measure: colours of a body from frames of a patch chart.
#include <fmt/format.h>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/files.h"
#include "base/numbers.h"
#include "base/station.h"
#include "base/times.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/development/colour_measure.h"
#include "frames/colour_profile.h"
#include "patches/body_colours.h"

namespace optrel::cli {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

struct MeasureOptions {
    std::string chart, out, name, measurement;
    std::vector<std::string> frames, flats, corners;
    bool json = false, overwrite = false;
};

constexpr const char* written_mark = ", measured by Optrel";

/// Its own colour files are recognised by their name.
const OutputFormat& colour_output() {
    static const OutputFormat format{"a colour file", {".dcp", ".icc"}, [](const fs::path& path, const std::string&) {
                                         try {
                                             return read_colour_profile(path).name.find(written_mark) !=
                                                    std::string::npos;
                                         } catch (const Error&) {
                                             return false;
                                         }
                                     }};
    return format;
}

std::optional<std::array<cv::Point2d, 4>> corners_of(const MeasureOptions& o) {
    if (o.corners.empty()) return std::nullopt;
    if (o.corners.size() != 4)
        throw usage_error("Give four corners (--corners), each as U,V in px, from that of A1 clockwise.");
    std::array<cv::Point2d, 4> out;
    for (std::size_t i = 0; i < 4; ++i) {
        const std::size_t comma = o.corners[i].find(',');
        const auto u = parse_number(o.corners[i].substr(0, comma)),
                   v = comma == std::string::npos ? std::nullopt : parse_number(o.corners[i].substr(comma + 1));
        if (!u || !v) throw usage_error(fmt::format("'{}' is no corner; write U,V in px.", printable(o.corners[i])));
        out[i] = {*u, *v};
    }
    return out;
}

json figure(const ColourFigure& f) { return {{"value", f.value}, {"sigma", f.sigma}}; }

json light_json(const MeasuredLight& light, const PatchChart& chart) {
    const ColourFit& fit = light.fitted.fit;
    json patches = json::array();
    for (std::size_t i = 0; i < light.patches.size(); ++i) {
        const MeasuredPatch& p = light.patches[i];
        json j = {{"id", chart.patches[i].id}, {"raw", p.raw}, {"sigma", p.sigma}, {"used", p.used()}};
        j["de2000"] = json();
        for (const PatchError& e : fit.errors)
            if (e.patch == static_cast<int>(i)) j["de2000"] = e.de2000;
        if (!p.used()) j["left_out"] = p.left_out;
        patches.push_back(std::move(j));
    }
    return {{"iso", light.iso},
            {"patches", patches},
            {"form", fit.form.name()},
            {"mean_de2000", fit.mean},
            {"p95_de2000", fit.p95},
            {"max_de2000", fit.largest},
            {"held_out_mean_de2000", fit.held_out_mean},
            {"noise_amplification", fit.form.noise_amplification()},
            {"exposure_ev", figure(light.exposure_ev)},
            {"neutral",
             {{"mired", light.mired.value},
              {"tint", light.tint.value},
              {"sigma", {{"mired", light.mired.sigma}, {"tint", light.tint.sigma}}},
              {"camera", fit.neutral}}},
            {"kelvin", light.fitted.kelvin > 0 ? json(light.fitted.kelvin) : json()},
            {"frames", light.frames}};
}

json measurement_json(const ColourMeasurement& m) {
    json out = light_json(m.lights.front(), m.chart);
    out["camera"] = camera_name(m.body);
    out["serial"] = m.body.body_serial;
    out["lights"] = json::array();
    for (const MeasuredLight& light : m.lights) out["lights"].push_back(light_json(light, m.chart));
    out["findings"] = json::array();
    for (const ColourFinding& f : m.findings)
        out["findings"].push_back({{"name", f.name}, {"serious", f.serious}, {"text", f.text}, {"remedy", f.remedy}});
    return out;
}

/// Each light at its lowest ISO, where noise is least.
std::vector<FittedLight> lights_of(const ColourMeasurement& m) {
    std::vector<FittedLight> out;
    int lowest = m.lights.front().iso;
    for (const MeasuredLight& light : m.lights) lowest = std::min(lowest, light.iso);
    for (const MeasuredLight& light : m.lights)
        if (light.iso == lowest) out.push_back(light.fitted);
    return out;
}

std::string file_of(const MeasureOptions& o, const ColourMeasurement& m) {
    const std::string camera = camera_name(m.body);
    const std::string name =
        o.name.empty() ? camera + (m.body.body_serial.empty() ? "" : " " + m.body.body_serial) : o.name;
    const ColourFileText text{name + written_mark, camera, "No copyright, use freely"};
    const bool icc = fs::path(o.out).extension() == ".icc";
    const std::vector<FittedLight> lights = lights_of(m);
    if (icc && lights.size() > 1)
        throw input_error(
            "The frames show the chart in two lights, and an ICC profile holds one; write a .dcp file, or "
            "give frames of one light.");
    if (m.lights.front().rendered && !icc)
        throw input_error(
            "A colour profile of the DNG specification is for raw frames; write an .icc file for rendered "
            "pictures.");
    return icc ? icc_of(lights.front(), text) : dng_profile_of(lights, text);
}

void print_light(const MeasuredLight& light) {
    const ColourFit& fit = light.fitted.fit;
    const auto used =
        std::count_if(light.patches.begin(), light.patches.end(), [](const MeasuredPatch& p) { return p.used(); });
    if (light.fitted.kelvin > 0)
        fmt::print("ISO {}, light of {}\n", light.iso, figure_text(figures::temperature, light.fitted.kelvin));
    const auto shown = [](double difference) { return number_text(figures::colour_difference, difference); };
    fmt::print(
        "  {} of {} patches; {}: dE2000 {} on the mean, {} at 95 percent, {} at most; {} on "
        "patches that the fit did not see\n",
        used, light.patches.size(), fit.form.name(), shown(fit.mean), shown(fit.p95), shown(fit.largest),
        shown(fit.held_out_mean));
    fmt::print("  noise times {}; a perfect white lies {} from the white level\n",
               number_text(figures::ratio, fit.form.noise_amplification()),
               figure_text(figures::falloff, light.exposure_ev.value, light.exposure_ev.sigma));
    if (!light.rendered)
        fmt::print("  neutral: warmth {}, tint {} over what the frames record\n",
                   figure_text(figures::warmth, light.mired.value, light.mired.sigma),
                   figure_text(figures::tint, light.tint.value, light.tint.sigma));
}

void measure(const MeasureOptions& o) {
    if (!o.out.empty()) check_output(o.out, colour_output(), existing(o.overwrite));
    if (!o.measurement.empty()) check_output(o.measurement, json_output(), existing(o.overwrite));
    const ColourRun run{
        read_patch_chart(o.chart), {o.frames.begin(), o.frames.end()}, {o.flats.begin(), o.flats.end()}, corners_of(o)};
    const ColourMeasurement m = measure_colours(run, console_progress());
    if (!o.out.empty()) write_output(o.out, colour_output(), existing(o.overwrite), file_of(o, m));
    if (!o.measurement.empty()) {
        BodyColours kept = body_colours_of(m);
        kept.author = current_author();
        kept.time = utc_now();
        write_output(o.measurement, json_output(), existing(o.overwrite), body_colours_to_json(kept));
    }
    if (o.json)
        print_json(measurement_json(m));
    else
        for (const MeasuredLight& light : m.lights) print_light(light);
    for (const ColourFinding& f : m.findings)
        fmt::print(stderr, "{}{}: {} {}\n", f.serious ? "serious, " : "", f.name, printable(f.text),
                   printable(f.remedy));
}

}  // namespace

void add_colour_measure(CLI::App& colour) {
    auto o = std::make_shared<MeasureOptions>();
    auto* command = add_command(colour, "measure", "Measure the colours of a body on frames of a patch chart",
                                "colour measure --chart chart.txt --frames charts/*.dng --out body.dcp");
    command->add_option("--chart", o->chart, "The chart's places and reference colours (text, ISO 28178 or CGATS)")
        ->required();
    command->add_option("--frames", o->frames, "Frames of the chart, of one body, in one light or two")->required();
    command->add_option("--flats", o->flats, "Frames of an even surface in the place of the chart");
    command->add_option(
        "--corners", o->corners,
        "Four outer corners of the grid, each as U,V in px, from that of A1 clockwise; in place of a search");
    command->add_option("--out", o->out, "Colour file: an ICC input profile (.icc) or a DNG colour profile (.dcp)");
    command->add_option("--measurement", o->measurement,
                        "JSON file for the measurement, which 'store publish-colours' keeps");
    command->add_option("--name", o->name, "Name of the colour file; the body's by default");
    add_overwrite_flag(*command, o->overwrite);
    command->add_flag("--json", o->json, "Print the measurement as JSON");
    command->callback([o] { measure(*o); });
}

}  // namespace optrel::cli
