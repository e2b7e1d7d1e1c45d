// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/noise_report.h"

#include <algorithm>
#include <cmath>

#include "base/json_text.h"
#include "base/numbers.h"
#include "measurement/json_document.h"
#include "sensor/colour_names.h"
#include "sensor/noise_kind.h"

namespace optrel {
namespace {

using nlohmann::json;

MeasuredFigure figure_in(const json& colour, const char* key) {
    return {colour.at(key).at("value").get<double>(), colour.at(key).at("sigma").get<double>()};
}

ReportedColour colour_in(const json& j) {
    ReportedColour out;
    out.a = figure_in(j, "a");
    out.b = figure_in(j, "b");
    out.gain = figure_in(j, "gain_e_per_dn");
    out.read_noise = figure_in(j, "read_noise_e");
    out.full_well = figure_in(j, "full_well_e");
    out.prnu = figure_in(j, "prnu_percent");
    out.row_noise = j.value("row_noise_e", 0.0);
    out.column_noise = j.value("column_noise_e", 0.0);
    out.dynamic_range_ev = std::log2(out.full_well.value / std::max(1e-9, out.read_noise.value));
    return out;
}

}  // namespace

double ReportedColour::snr_db(double signal) const {
    const double unevenness = prnu.value / 100 * signal;
    const double variance = std::max(1e-30, a.value * signal + b.value + unevenness * unevenness);
    return 20 * std::log10(signal / std::sqrt(variance));
}

NoiseReport noise_report(const std::string& document, const std::string& where) {
    noise_kind().read(document, where);  // refuses what is no noise measurement
    return reading_document(where, [&] {
        const json j = parse_json(document, where);
        NoiseReport out;
        out.camera = j.at("camera");
        out.serial = j.at("serial");
        out.digital_above_iso = j.contains("digital_above_iso") && j["digital_above_iso"].is_number()
                                    ? j["digital_above_iso"].get<int>()
                                    : 0;
        for (const auto& [name, setting] : j.at("iso").items()) {
            ReportedIso iso;
            iso.iso = static_cast<int>(parse_number(name).value_or(0));
            for (std::size_t c = 0; c < 3; ++c) iso.colours[c] = colour_in(setting.at(colour_names[c]));
            iso.pairs = setting.value("pairs", 0);
            iso.dark_frames = setting.value("dark_frames", 0);
            if (setting.contains("levels"))
                for (const json& l : setting["levels"])
                    iso.levels.push_back({l.at("exposure_s").is_number() ? l["exposure_s"].get<double>() : 0.0,
                                          l.at("level").get<double>()});
            if (setting.contains("nonlinearity_percent") && setting["nonlinearity_percent"].is_number())
                iso.nonlinearity_percent = setting["nonlinearity_percent"].get<double>();
            out.isos.push_back(std::move(iso));
        }
        std::sort(out.isos.begin(), out.isos.end(),
                  [](const ReportedIso& a, const ReportedIso& b) { return a.iso < b.iso; });
        for (const json& f : j.at("findings"))
            out.findings.push_back(
                {f.value("name", ""), f.value("text", ""), f.value("remedy", ""), f.value("serious", false)});
        if (j.contains("frames"))
            for (const json& frame : j["frames"]) out.frames.insert(frame.get<std::string>());
        return out;
    });
}

}  // namespace optrel
