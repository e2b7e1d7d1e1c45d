// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/defect_kind.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/json_text.h"
#include "base/words.h"
#include "measurement/json_kind.h"

namespace optrel {
namespace {

using nlohmann::json;

constexpr int longest_side = 100000;
constexpr std::size_t most_pixels = 1000000, most_lines = 10000, most_settings = 1000;

constexpr const char *defect_format = "optrel-defects", *defect_word = "defect map";

DefectKind kind_of(const std::string& name, const std::string& where) {
    for (const DefectKind kind : {DefectKind::hot, DefectKind::unstable, DefectKind::dead})
        if (name == to_string(kind)) return kind;
    throw input_error(fmt::format("{} has a defect '{}', which this program does not know.", where, printable(name)));
}

Error outside(const std::string& where) {
    return input_error(fmt::format("{} has a defect outside its sensor; find the defects again.", where));
}

void read_pixels(const json& j, const std::string& where, DefectMap& out) {
    if (j.at("pixels").size() > most_pixels) throw damaged_document(where);
    for (const json& p : j.at("pixels")) {
        DefectPixel pixel;
        pixel.row = p.at("row");
        pixel.column = p.at("column");
        pixel.kind = kind_of(p.at("kind"), where);
        pixel.strength = p.value("strength", 0.0);
        pixel.excess = p.value("excess", std::vector<double>());
        if (pixel.row < 0 || pixel.column < 0 || pixel.row >= out.height || pixel.column >= out.width)
            throw outside(where);
        if (pixel.kind != DefectKind::dead && pixel.excess.size() != out.settings.size()) throw damaged_document(where);
        out.pixels.push_back(std::move(pixel));
    }
}

void read_lines(const json& j, const std::string& where, DefectMap& out) {
    if (j.at("lines").size() > most_lines) throw damaged_document(where);
    for (const json& l : j.at("lines")) {
        DefectLine line;
        line.is_row = l.at("is_row");
        line.index = l.at("index");
        line.first = l.at("first");
        line.last = l.at("last");
        line.strength = l.value("strength", 0.0);
        line.in_light = l.value("in_light", false);
        const int across = line.is_row ? out.height : out.width, along = line.is_row ? out.width : out.height;
        if (line.index < 0 || line.index >= across || line.first < 0 || line.last < line.first || line.last >= along)
            throw outside(where);
        out.lines.push_back(line);
    }
}

void read_settings(const json& j, const std::string& where, DefectMap& out) {
    if (j.at("dark_settings").size() > most_settings) throw damaged_document(where);
    for (const json& s : j.at("dark_settings")) {
        const DarkSetting setting{s.at("iso"), s.at("exposure_s"), s.at("frames"), s.at("noise_counts")};
        if (setting.iso < 1 || !(setting.exposure_s >= 0) || !(setting.noise >= 0)) throw damaged_document(where);
        out.settings.push_back(setting);
    }
}

/// A map that marks much of a picture would replace it. Readers check it too: whoever writes into the store's tables
/// by hand spoils no picture.
void require_few(const DefectMap& map, const std::string& where) {
    double samples = static_cast<double>(map.pixels.size());
    for (const DefectLine& l : map.lines) samples += l.last - l.first + 1;
    const double share = samples / (static_cast<double>(map.width) * map.height);
    if (!(share < 0.02))
        throw input_error(
            fmt::format("{} replaces {:.1f} % of the picture, which no usable sensor needs; find the defects again.",
                        where, 100 * share));
}

DefectMap map_in(const json& j, const std::string& where) {
    DefectMap out;
    out.camera = j.at("camera");
    out.serial = j.at("serial");
    out.author = j.value("author", "");
    out.time = j.value("time", "");
    out.width = j.at("width");
    out.height = j.at("height");
    if (out.width < 1 || out.height < 1 || out.width > longest_side || out.height > longest_side)
        throw damaged_document(where);
    out.flats = j.at("flat_fields");
    out.frames = j.at("frames").get<std::vector<std::string>>();
    read_settings(j, where, out);
    read_pixels(j, where, out);
    read_lines(j, where, out);
    require_few(out, where);
    for (const json& d : j.at("dust"))
        out.dust.push_back({Vec2(d.at("u").get<double>(), d.at("v").get<double>()), d.at("radius_px"),
                            d.at("depth_percent"), d.at("sigma_percent")});
    return out;
}

Measurement read_map(const std::string& document, const std::string& where) {
    const json j = parse_document(document, where, defect_format, defect_word);
    const DefectMap map = map_in(j, where);
    Measurement out;
    take_common_parts(out, j, document);
    out.kind = defect_kind().id;
    out.name = "Defects of " + map.camera + (map.serial.empty() ? "" : " " + map.serial);
    out.subject = {MeasuredSubject::Kind::body, map.camera, map.serial, ""};
    out.subject_key = body_key(map.camera, map.serial, out.taken_in);
    out.figures = {{"hot pixels", static_cast<double>(map.count(DefectKind::hot)), "", {}},
                   {"unstable pixels", static_cast<double>(map.count(DefectKind::unstable)), "", {}},
                   {"dead pixels", static_cast<double>(map.count(DefectKind::dead)), "", {}},
                   {"bad lines", static_cast<double>(map.lines.size()), "", {}},
                   {"dust spots", static_cast<double>(map.dust.size()), "", {}}};
    return out;
}

void require_body(const std::string& document) {
    if (defects_from_json(document, "The defect map").serial.empty())
        throw input_error(
            "The defect map names no body: its frames record no serial number. Defects belong to one body; use files "
            "as the camera wrote them.");
}

std::string change_in_words(int count, const char* one, const char* what) {
    return fmt::format("{} {}{} {}", count, one, count == 1 ? "" : "s", what);
}

std::vector<std::string> defect_differences(const std::string& before, const std::string& after) {
    const DefectMap old_map = defects_from_json(before, "the defect map"),
                    new_map = defects_from_json(after, "the defect map");
    if (old_map.width != new_map.width || old_map.height != new_map.height) return {"is of a sensor of another size"};
    const DefectChange c = change_between(old_map, new_map);
    std::vector<std::string> out;
    if (c.new_pixels) out.push_back(change_in_words(c.new_pixels, "pixel", "new"));
    if (c.gone_pixels) out.push_back(change_in_words(c.gone_pixels, "pixel", "no longer defect"));
    if (c.new_lines) out.push_back(change_in_words(c.new_lines, "line", "new"));
    if (c.gone_lines) out.push_back(change_in_words(c.gone_lines, "line", "no longer defect"));
    if (out.empty()) out.emplace_back("has the same defects");
    return out;
}

}  // namespace

std::string defects_to_json(const DefectMap& map) {
    json settings = json::array(), pixels = json::array(), lines = json::array(), dust = json::array();
    for (const DarkSetting& s : map.settings)
        settings.push_back(
            {{"iso", s.iso}, {"exposure_s", s.exposure_s}, {"frames", s.frames}, {"noise_counts", s.noise}});
    for (const DefectPixel& p : map.pixels) {
        json pixel = {{"row", p.row}, {"column", p.column}, {"kind", to_string(p.kind)}};
        if (p.kind != DefectKind::dead) pixel["excess"] = p.excess;
        if (p.kind != DefectKind::hot) pixel["strength"] = p.strength;
        pixels.push_back(std::move(pixel));
    }
    for (const DefectLine& l : map.lines)
        lines.push_back({{"is_row", l.is_row},
                         {"index", l.index},
                         {"first", l.first},
                         {"last", l.last},
                         {"strength", l.strength},
                         {"in_light", l.in_light}});
    for (const DustSpot& d : map.dust)
        dust.push_back({{"u", d.place.x()},
                        {"v", d.place.y()},
                        {"radius_px", d.radius_px},
                        {"depth_percent", d.depth_percent},
                        {"sigma_percent", d.sigma_percent}});
    return json_text({{"format", "optrel-defects"},
                      {"format_version", 1},
                      {"camera", map.camera},
                      {"serial", map.serial},
                      {"author", map.author},
                      {"time", map.time},
                      {"program", "Optrel " OPTREL_VERSION},
                      {"width", map.width},
                      {"height", map.height},
                      {"dark_settings", settings},
                      {"flat_fields", map.flats},
                      {"pixels", pixels},
                      {"lines", lines},
                      {"dust", dust},
                      {"frames", map.frames}},
                     1) +
           "\n";
}

DefectMap defects_from_json(const std::string& document, const std::string& where) {
    return reading_document(where,
                            [&] { return map_in(parse_document(document, where, defect_format, defect_word), where); });
}

const MeasurementKind& defect_kind() {
    static const MeasurementKind kind = json_kind({.id = "defects",
                                                   .one = defect_word,
                                                   .many = "defect maps",
                                                   .id_prefix = "d",
                                                   .due_after_days = 180,  // Cosmic rays make further hot pixels.
                                                   .made_again_by = "finding them again in Fleet, Defects",
                                                   .format = defect_format,
                                                   .read = read_map,
                                                   .require_plausible = require_body,
                                                   .differences = defect_differences});
    return kind;
}

}  // namespace optrel
