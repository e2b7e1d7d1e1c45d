// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/body_colours.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/json_text.h"
#include "measurement/json_kind.h"

namespace optrel {
namespace {

using nlohmann::json;

constexpr std::size_t most_settings = 200, most_patches = 4096;

constexpr const char *format = "optrel-colours", *one = "colour measurement";

json figure_json(const ColourFigure& f) { return {{"value", f.value}, {"sigma", f.sigma}}; }
ColourFigure figure_from(const json& j) { return {j.at("value"), j.at("sigma")}; }

std::vector<double> numbers_of(const cv::Matx33d& m) { return {m.val, m.val + 9}; }

json setting_json(const ColourSetting& s) {
    json patches = json::array();
    for (const MeasuredPatch& p : s.patches)
        patches.push_back({{"raw", p.raw}, {"sigma", p.sigma}, {"left_out", p.left_out}});
    return {{"iso", s.iso},
            {"kelvin", s.kelvin},
            {"exposure_s", s.exposure_s},
            {"aperture", s.aperture},
            {"xyz_to_camera", numbers_of(s.xyz_to_camera)},
            {"as_shot", s.as_shot},
            {"neutral", s.neutral},
            {"exposure_ev", figure_json(s.exposure_ev)},
            {"mired", figure_json(s.mired)},
            {"tint", figure_json(s.tint)},
            {"patches", patches},
            {"form", s.form},
            {"mean_de2000", s.mean_de2000},
            {"held_out_de2000", s.held_out_de2000}};
}

ColourSetting setting_from(const json& j, const BodyColours& of, const std::string& where) {
    ColourSetting s;
    s.iso = j.at("iso");
    s.kelvin = j.at("kelvin");
    s.exposure_s = j.at("exposure_s");
    s.aperture = j.at("aperture");
    const std::vector<double> matrix = j.at("xyz_to_camera").get<std::vector<double>>();
    if (matrix.size() != 9) throw damaged_document(where);
    std::copy(matrix.begin(), matrix.end(), s.xyz_to_camera.val);
    s.as_shot = j.at("as_shot");
    s.neutral = j.at("neutral");
    s.exposure_ev = figure_from(j.at("exposure_ev"));
    s.mired = figure_from(j.at("mired"));
    s.tint = figure_from(j.at("tint"));
    s.form = j.at("form");
    s.mean_de2000 = j.at("mean_de2000");
    s.held_out_de2000 = j.at("held_out_de2000");
    if (j.at("patches").size() != of.chart.patches.size()) throw damaged_document(where);
    for (std::size_t i = 0; i < of.chart.patches.size(); ++i) {
        const json& p = j["patches"][i];
        MeasuredPatch patch;
        patch.column = of.chart.patches[i].column;
        patch.row = of.chart.patches[i].row;
        patch.raw = p.at("raw");
        patch.sigma = p.at("sigma");
        patch.left_out = p.at("left_out");
        s.patches.push_back(std::move(patch));
    }
    const bool sound = s.iso >= 1 && s.kelvin >= 0 && std::abs(cv::determinant(s.xyz_to_camera)) > 1e-6 &&
                       std::all_of(s.neutral.begin(), s.neutral.end(), [](double v) { return v > 0; }) &&
                       std::all_of(s.as_shot.begin(), s.as_shot.end(), [](double v) { return v > 0; });
    if (!sound) throw damaged_document(where);
    return s;
}

Measurement read_colours(const std::string& document, const std::string& where) {
    const BodyColours c = body_colours_from_json(document, where);
    Measurement out;
    take_common_parts(out, parse_document(document, where, format, one), document);
    out.kind = colour_kind().id;
    out.name = "Colours of " + c.camera + (c.serial.empty() ? "" : " " + c.serial);
    out.subject = {c.serial.empty() ? MeasuredSubject::Kind::body_model : MeasuredSubject::Kind::body, c.camera,
                   c.serial, ""};
    out.subject_key = body_key(c.camera, c.serial, out.taken_in);
    for (const ColourSetting& s : c.settings)
        out.figures.push_back(
            {fmt::format("colour error at ISO {} in {:.0f} K", s.iso, s.kelvin), s.mean_de2000, "dE2000", {}});
    return out;
}

void require_colours(const std::string& document) {
    const BodyColours c = body_colours_from_json(document, "The colour measurement");
    if (c.settings.empty()) throw input_error("The colour measurement has no frames; measure the body again.");
    for (const ColourSetting& s : c.settings)
        for (const MeasuredPatch& p : s.patches)
            for (const double v : p.raw)
                if (!(v > -0.2 && v < 4))
                    throw input_error(
                        fmt::format("The colour measurement has a patch of {:.3g} times the white level, "
                                    "which no body records; measure it again.",
                                    v));
}

std::vector<std::string> colour_differences(const std::string& before, const std::string& after) {
    const BodyColours old_one = body_colours_from_json(before, "the colour measurement"),
                      new_one = body_colours_from_json(after, "the colour measurement");
    std::vector<std::string> out;
    for (const ColourSetting& now : new_one.settings)
        for (const ColourSetting& then : old_one.settings) {
            if (now.iso != then.iso || !same_light(now.kelvin, then.kelvin)) continue;
            out.push_back(fmt::format("ISO {} in {:.0f} K: warmth changes by {:+.1f} MK⁻¹, tint by {:+.1f}", now.iso,
                                      now.kelvin, now.mired.value - then.mired.value,
                                      now.tint.value - then.tint.value));
        }
    if (out.empty()) out.emplace_back("has other lights or ISO settings");
    return out;
}

}  // namespace

bool same_light(double kelvin_1, double kelvin_2) { return std::abs(1e6 / kelvin_1 - 1e6 / kelvin_2) < 40; }

BodyColours body_colours_of(const ColourMeasurement& m) {
    BodyColours out;
    out.camera = camera_name(m.body);
    out.serial = m.body.body_serial;
    out.chart = m.chart;
    for (const MeasuredLight& light : m.lights) {
        ColourSetting s;
        s.iso = light.iso;
        s.kelvin = light.fitted.kelvin;
        s.exposure_s = light.exposure_s;
        s.aperture = light.aperture;
        s.xyz_to_camera = light.xyz_to_camera;
        s.as_shot = light.as_shot;
        s.neutral = light.fitted.fit.neutral;
        s.exposure_ev = light.exposure_ev;
        s.mired = light.mired;
        s.tint = light.tint;
        s.patches = light.patches;
        s.form = light.fitted.fit.form.name();
        s.mean_de2000 = light.fitted.fit.mean;
        s.held_out_de2000 = light.fitted.fit.held_out_mean;
        out.settings.push_back(std::move(s));
        out.frames.insert(out.frames.end(), light.frames.begin(), light.frames.end());
    }
    return out;
}

std::string body_colours_to_json(const BodyColours& c) {
    json patches = json::array(), settings = json::array();
    for (const ReferencePatch& p : c.chart.patches)
        patches.push_back({{"id", p.id},
                           {"column", p.column},
                           {"row", p.row},
                           {"xyz_d50", std::vector<double>(p.xyz_d50.val, p.xyz_d50.val + 3)}});
    for (const ColourSetting& s : c.settings) settings.push_back(setting_json(s));
    return json_text({{"format", "optrel-colours"},
                      {"format_version", 1},
                      {"camera", c.camera},
                      {"serial", c.serial},
                      {"author", c.author},
                      {"time", c.time},
                      {"program", "Optrel " OPTREL_VERSION},
                      {"chart",
                       {{"name", c.chart.name},
                        {"columns", c.chart.columns},
                        {"rows", c.chart.rows},
                        {"pitch_mm", c.chart.pitch_mm},
                        {"patch_mm", c.chart.patch_mm},
                        {"illuminant", c.chart.illuminant},
                        {"patches", patches}}},
                      {"settings", settings},
                      {"frames", c.frames}},
                     1) +
           "\n";
}

BodyColours body_colours_from_json(const std::string& document, const std::string& where) {
    return reading_document(where, [&] {
        const json j = parse_document(document, where, format, one);
        BodyColours out;
        out.camera = j.at("camera");
        out.serial = j.at("serial");
        out.author = j.value("author", "");
        out.time = j.value("time", "");
        out.frames = j.at("frames").get<std::vector<std::string>>();
        const json& chart = j.at("chart");
        out.chart.name = chart.at("name");
        out.chart.columns = chart.at("columns");
        out.chart.rows = chart.at("rows");
        out.chart.pitch_mm = chart.at("pitch_mm");
        out.chart.patch_mm = chart.at("patch_mm");
        out.chart.illuminant = chart.at("illuminant");
        if (chart.at("patches").size() > most_patches || j.at("settings").size() > most_settings)
            throw damaged_document(where);
        for (const json& p : chart["patches"]) {
            const std::array<double, 3> xyz = p.at("xyz_d50");
            out.chart.patches.push_back({p.at("id"), p.at("column"), p.at("row"), {xyz[0], xyz[1], xyz[2]}});
        }
        for (const json& s : j["settings"]) out.settings.push_back(setting_from(s, out, where));
        return out;
    });
}

const MeasurementKind& colour_kind() {
    static const MeasurementKind kind = json_kind({.id = "colours",
                                                   .one = one,
                                                   .many = "colour measurements",
                                                   .id_prefix = "c",
                                                   .made_again_by = "'optrel-cli colour measure'",
                                                   .format = format,
                                                   .read = read_colours,
                                                   .require_plausible = require_colours,
                                                   .differences = colour_differences});
    return kind;
}

}  // namespace optrel
