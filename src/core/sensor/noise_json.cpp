// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/noise_json.h"

#include <nlohmann/json.hpp>

#include "base/json_text.h"
#include "sensor/colour_names.h"

namespace optrel {
namespace {

using nlohmann::json;

json figure(const MeasuredFigure& f, double factor = 1) {
    return {{"value", f.value * factor}, {"sigma", f.sigma * factor}};
}

json colour_json(const ColourNoise& c, double white) {
    return {{"a", figure(c.slope, 1 / white)},
            {"b", figure(c.floor, 1 / (white * white))},
            {"gain_e_per_dn", figure(c.gain)},
            {"read_noise_e", figure(c.read_noise)},
            {"read_noise_dn", figure(c.read_counts)},
            {"full_well_e", figure(c.full_well)},
            {"prnu_percent", figure(c.prnu)},
            {"dsnu_e", figure(c.dsnu)},
            {"row_noise_e", c.row_noise},
            {"column_noise_e", c.column_noise},
            {"black_offset_dn", c.black},
            {"dynamic_range_ev", c.dynamic_range_ev},
            {"chi_square", c.chi_square},
            {"blocks", c.blocks}};
}

}  // namespace

std::string noise_to_json(const NoiseMeasurement& m, const std::string& author, const std::string& time) {
    json isos = json::object(), findings = json::array(), frames = json::array();
    for (const IsoNoise& iso : m.isos) {
        json j = {{"pairs", iso.pairs},
                  {"dark_frames", iso.dark_frames},
                  {"white_dn", iso.white},
                  {"value_step", iso.value_step > 0 ? json(iso.value_step) : json()},
                  {"nonlinearity_percent", iso.nonlinearity_percent ? json(*iso.nonlinearity_percent) : json()}};
        j["levels"] = json::array();
        for (const PairLevel& l : iso.levels)
            j["levels"].push_back({{"exposure_s", l.exposure_s > 0 ? json(l.exposure_s) : json()}, {"level", l.level}});
        for (std::size_t c = 0; c < 3; ++c) j[colour_names[c]] = colour_json(iso.colours[c], iso.white);
        isos[std::to_string(iso.iso)] = std::move(j);
    }
    for (const NoiseFinding& f : m.findings)
        findings.push_back({{"name", f.name},
                            {"serious", f.serious},
                            {"iso", f.iso > 0 ? json(f.iso) : json()},
                            {"text", f.text},
                            {"remedy", f.remedy}});
    for (const std::filesystem::path& path : m.frames) frames.push_back(path.filename().string());
    return json_text({{"format", "optrel-noise"},
                      {"format_version", 1},
                      {"camera", camera_name(m.body)},
                      {"serial", m.body.body_serial},
                      {"author", author},
                      {"time", time},
                      {"program", "Optrel " OPTREL_VERSION},
                      {"width", m.width},
                      {"height", m.height},
                      {"units",
                       {{"a", "variance per signal; signal 0 at black, 1 at the white level"},
                        {"b", "variance at black, in the same scale"},
                        {"dn", "counts as recorded"},
                        {"e", "electrons"}}},
                      {"iso", isos},
                      {"digital_above_iso", m.digital_above_iso > 0 ? json(m.digital_above_iso) : json()},
                      {"findings", findings},
                      {"frames", frames}},
                     1) +
           "\n";
}

}  // namespace optrel
