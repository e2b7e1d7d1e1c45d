// SPDX-License-Identifier: GPL-3.0-or-later
#include "rig/scenario_form.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <string>
#include <vector>

#include "base/error.h"
#include "base/words.h"

namespace optrel::rig {
namespace {

using nlohmann::json;
using nlohmann::ordered_json;

enum class Kind { text, whole, number, flag, numbers, steps, object, list };

struct Form;

/// One property of an object.
struct Property {
    const char* name;
    Kind kind;
    const char* meaning;
    bool needed = false;
    double low = -1e9, high = 1e9;          ///< for a number, or for each of several
    int count = 0;                          ///< how many numbers
    std::vector<const char*> choices = {};  ///< for a text; empty: any
    const Form* form = nullptr;             ///< for an object, or for each one in a list
};

struct Form {
    std::vector<Property> properties;

    const Property* find(const std::string& name) const {
        for (const Property& p : properties)
            if (name == p.name) return &p;
        return nullptr;
    }
};

Property text(const char* name, const char* meaning, bool needed = true, std::vector<const char*> choices = {}) {
    return {name, Kind::text, meaning, needed, 0, 0, 0, std::move(choices)};
}
Property whole(const char* name, const char* meaning, double low, double high, bool needed = true) {
    return {name, Kind::whole, meaning, needed, low, high};
}
Property number(const char* name, const char* meaning, double low, double high, bool needed = true) {
    return {name, Kind::number, meaning, needed, low, high};
}
Property numbers(const char* name, int count, const char* meaning, double low, double high, bool needed = true) {
    return {name, Kind::numbers, meaning, needed, low, high, count};
}
Property object(const char* name, const char* meaning, const Form& form, bool needed = true) {
    return {name, Kind::object, meaning, needed, 0, 0, 0, {}, &form};
}
Property list(const char* name, const char* meaning, const Form& form, bool needed = true) {
    return {name, Kind::list, meaning, needed, 0, 0, 0, {}, &form};
}
Property flag(const char* name, const char* meaning) { return {name, Kind::flag, meaning}; }

/// The same properties, all optional: a shot lists only differences of its lens or chart.
Form changes_of(Form form) {
    for (Property& p : form.properties) p.needed = false;
    return form;
}

Form colours(int count, const char* meaning, double low, double high, bool needed) {
    Form out;
    for (const char* c : {"red", "green", "blue"})
        out.properties.push_back(count == 1 ? number(c, meaning, low, high, needed)
                                            : numbers(c, count, meaning, low, high, needed));
    return out;
}

const Form& chart_form() {
    static const Form form{{
        whole("squares_x", "Squares across", 3, 200),
        whole("squares_y", "Squares down", 3, 200),
        number("square_mm", "Side of a square, mm", 0.1, 1000),
        flag("coded", "White squares carry codes"),
        number("stretch_y", "By what share the print is longer downwards", -0.1, 0.1, false),
        number("bow_mm", "How far the middle of the board stands out, mm", -100, 100, false),
        numbers("light_ev", 2, "How much brighter the right and the lower edge are than the left and the upper, EV", -6,
                6, false),
        numbers("glare_mm", 3, "A reflection: its place on the board and its radius, mm", -5000, 5000, false),
        number("white", "Reflectance of white", 0.05, 1, false),
        flag("clutter", "Things stand about the board"),
        flag("mirrored", "The board is printed mirrored"),
    }};
    return form;
}

const Form& lens_form() {
    static const Form stretch = colours(2, "Radial displacement against green, at rho and rho^3", -0.1, 0.1, false),
                      shift = colours(2, "Displacement of the whole colour, mm", -1, 1, false),
                      mechanical = colours(1, "Light that the barrel takes at the edge, a share", 0, 0.95, true);
    static const Form form{{
        text("text", "The lens as files name it; empty for one without contacts"),
        text("serial", "Its serial number, or empty"),
        number("nominal_mm", "The focal length that files say, mm", 0, 5000),
        text("projection", "How angles become distances", false, {"rectilinear", "equisolid", "stereographic"}),
        number("focal_mm", "The true focal length, mm", 1, 5000),
        numbers("centre_mm", 2, "The optical centre from the middle of the sensor, mm", -10, 10),
        number("reference_mm", "The radius at which rho is 1, mm", 0.1, 100),
        numbers("division", 3, "Terms of the division that makes the distortion, of rho^2, rho^4, rho^6", -5, 5),
        numbers("tilt", 2, "Tilt of an element, radians", -0.1, 0.1),
        object("stretch", "Lateral colour", stretch),
        object("shift_mm", "Lateral colour of a lens that is not centred", shift),
        number("cosine_power", "Falloff as this power of the cosine", 0, 20),
        object("mechanical", "Falloff that the barrel adds", mechanical),
        numbers("falloff_centre_mm", 2, "The centre of the falloff from the middle of the sensor, mm", -20, 20),
    }};
    return form;
}

const Form& body_form() {
    static const Form records{{
        whole("contrast", "Contrast setting that files record", -5, 5, false),
        whole("saturation", "Saturation setting that files record", -5, 5, false),
        number("baseline_exposure", "Baseline exposure that files record, EV", -5, 5, false),
        {"sharpness_from_iso", Kind::steps, "Sharpness setting that files record from each ISO on"},
    }};
    static const Form sensor{{
        text("copy", "Which copy of the sensor it is; its serial number by default", false),
        number("prnu_percent", "How unevenly pixels answer to light, one sigma, percent", 0, 20, false),
        number("dsnu_e", "How unevenly pixels are dark, one sigma, electrons", 0, 1000, false),
        number("row_noise_e", "Noise of whole rows, one sigma, electrons", 0, 1000, false),
        number("late_noise_e", "Noise after the amplifier, electrons at ISO 100", 0, 10000, false),
        whole("digital_above_iso", "Above this ISO counts are only multiplied", 50, 1e7, false),
        number("hot_per_million", "Hot pixels in a million", 0, 1e5, false),
        number("hot_at_s", "Exposure time at which hot pixels show their electrons, s; 0: at every time", 0, 1e5,
               false),
        number("unstable_per_million", "Pixels in a million that are hot in every second exposure", 0, 1e5, false),
        number("dead_per_million", "Pixels in a million that hardly answer to light", 0, 1e5, false),
        whole("bad_columns", "Columns that show electrons in the dark", 0, 1000, false),
        whole("dust_specks", "Specks of dust", 0, 1000, false),
    }};
    static const Form spectral{{
        numbers("centre_nm", 3, "Middle of what red, green and blue see, nm", 400, 690, false),
        numbers("width_nm", 3, "Its width, one sigma, nm", 5, 200, false),
        number("leak", "Green light that all colours see, a share", 0, 1, false),
        number("infrared", "Light beyond 700 nm that all colours see, a share", 0, 2, false),
        number("gain_ev", "Sensitivity of this copy, EV", -3, 3, false),
    }};
    static const Form form{{
        text("id", "What shots call it; part of file names"),
        text("maker", "The maker as files name it"),
        text("model", "The model as files name it"),
        text("serial", "The serial number as files report it, or empty"),
        whole("width", "Pixels across", 64, 20000),
        whole("height", "Pixels down", 64, 20000),
        number("pitch_um", "Distance of pixels, micrometres", 0.5, 100),
        text("filter", "Colours of the filter, row by row", true, {"RGGB", "GRBG", "GBRG", "BGGR", "6x6", "none"}),
        numbers("xyz_to_camera", 9, "Matrix from XYZ to the camera's colours, row by row", -10, 10),
        numbers("neutral", 3, "The camera's red, green and blue of a neutral surface", 0.01, 10),
        number("full_well", "Electrons of a full pixel at ISO 100", 100, 1e7),
        number("read_noise", "Read noise, electrons", 0, 1000),
        object("records", "Settings that files record", records, false),
        object("sensor", "What is individual about the sensor", sensor, false),
        object("spectral", "What the sensor sees of the spectrum, for patch charts", spectral, false),
        object("spectral_model", "What it takes itself for when it records its white balance; spectral by default",
               spectral, false),
    }};
    return form;
}

const Form& shot_form() {
    static const Form chart = changes_of(chart_form()), lens = [] {
        Form out = changes_of(lens_form());
        out.properties.insert(out.properties.begin(),
                              text("id", "What the truth of this lens is named after; 'other' by default", false));
        return out;
    }();
    static const Form form{{
        text("folder", "Folder below the output folder"),
        text("name", "Name of the frame without its ending; it seeds the noise"),
        text("kind", "What is photographed", true, {"chart", "flat", "specimen", "patches"}),
        text("body", "Id of the body"),
        number("iso", "ISO", 1, 1e7),
        number("exposure_s", "Exposure time that the file records, s", 0, 1e5, false),
        number("level", "Brightness of white, a share of the full range; 0 is a dark frame", 0, 5, false),
        number("blur_px", "Blur of the lens, one sigma of a Gaussian, px", 0.05, 50, false),
        numbers("rotation", 3, "How the chart or specimen is turned, degrees", -360, 360, false),
        numbers("translation", 3, "Where it stands before the lens, mm", -1e6, 1e6, false),
        numbers("lamp", 2, "Of a flat field: how much brighter the right and the lower edge are, a share", -0.9, 0.9,
                false),
        text("light", "The light on a patch chart or a flat field, by its spectrum", false, {"daylight", "lamp"}),
        number("aperture", "The f-number that files say", 0, 512, false),
        number("distance_m", "The focus distance that files say, m", 0, 1e5, false),
        text("time", "When it was taken, as in 2026:03:04 14:11:00"),
        object("lens", "What is different of the lens: a zoom, another copy, another lens", lens, false),
        object("chart", "What is different of the chart", chart, false),
    }};
    return form;
}

const Form& scenario_form() {
    static const Form colour_file{{
        text("file", "Path below the output folder"),
        text("body", "Id of the body whose colours it holds"),
        text("name", "What it is called"),
    }};
    static const Form form{{
        object("chart", "The board", chart_form(), false),
        object("lens", "The lens of all shots that name no other", lens_form()),
        list("bodies", "The cameras", body_form()),
        list("colour_files", "Colour files to be written", colour_file, false),
        list("shots", "The frames", shot_form()),
    }};
    return form;
}

std::string wanted(const Property& p) {
    std::vector<std::string> choices(p.choices.begin(), p.choices.end());
    switch (p.kind) {
        case Kind::text: return choices.empty() ? "a text" : one_of(choices);
        case Kind::whole: return fmt::format("a whole number from {:g} to {:g}", p.low, p.high);
        case Kind::number: return fmt::format("a number from {:g} to {:g}", p.low, p.high);
        case Kind::flag: return "true or false";
        case Kind::numbers: return fmt::format("a list of {} numbers from {:g} to {:g}", p.count, p.low, p.high);
        case Kind::steps: return "a list of pairs of whole numbers, as in [[100, 1], [800, 0]]";
        case Kind::object: return "an object";
        case Kind::list: return "a list of objects";
    }
    return {};
}

bool in_range(const json& value, const Property& p) {
    if (!value.is_number()) return false;
    const double v = value.get<double>();
    return std::isfinite(v) && v >= p.low && v <= p.high;
}

bool right(const json& value, const Property& p) {
    const auto each = [&](const auto& holds) { return std::all_of(value.begin(), value.end(), holds); };
    switch (p.kind) {
        case Kind::text:
            return value.is_string() && (p.choices.empty() || std::find(p.choices.begin(), p.choices.end(),
                                                                        value.get<std::string>()) != p.choices.end());
        case Kind::whole: return value.is_number_integer() && in_range(value, p);
        case Kind::number: return in_range(value, p);
        case Kind::flag: return value.is_boolean();
        case Kind::numbers:
            return value.is_array() && static_cast<int>(value.size()) == p.count &&
                   each([&](const json& v) { return in_range(v, p); });
        case Kind::steps:
            return value.is_array() && each([](const json& v) {
                       return v.is_array() && v.size() == 2 && v[0].is_number_integer() && v[1].is_number_integer();
                   });
        case Kind::object: return value.is_object();
        case Kind::list: return value.is_array() && each([](const json& v) { return v.is_object(); });
    }
    return false;
}

/// "shots[3] (CH0004)": index and name of an entry.
std::string entry_name(const std::string& where, std::size_t index, const json& entry) {
    for (const char* key : {"name", "id"})
        if (entry.contains(key) && entry[key].is_string())
            return fmt::format("{}[{}] ({})", where, index, printable(entry[key].get<std::string>().substr(0, 60)));
    return fmt::format("{}[{}]", where, index);
}

[[noreturn]] void complain(const std::string& what) {
    throw input_error(fmt::format(
        "The scenario cannot be used: {}; nothing was made, and 'optrel-cli rig schema' says what it may hold.", what));
}

void check_object(const json& value, const Form& form, const std::string& where) {
    const std::string in = where.empty() ? "it" : where;
    std::vector<std::string> names;
    for (const Property& p : form.properties) names.emplace_back(p.name);
    for (const auto& [name, of] : value.items())
        if (!form.find(name))
            complain(fmt::format("{} has a property '{}', which there is not{}", in, printable(name.substr(0, 60)),
                                 nearest_clause(name, names)));
    for (const Property& p : form.properties) {
        if (!value.contains(p.name)) {
            if (p.needed) complain(fmt::format("{} has no '{}' ({})", in, p.name, wanted(p)));
            continue;
        }
        const json& own = value[p.name];
        const std::string here = where.empty() ? p.name : where + "." + p.name;
        if (!right(own, p)) complain(fmt::format("{} is to be {}", here, wanted(p)));
        if (p.kind == Kind::object) check_object(own, *p.form, here);
        if (p.kind == Kind::list)
            for (std::size_t i = 0; i < own.size(); ++i) check_object(own[i], *p.form, entry_name(here, i, own[i]));
    }
}

/// Checks rules that involve several properties: names of bodies, and the requirements of a kind of shot.
void check_references(const json& scenario) {
    std::vector<std::string> bodies;
    for (const json& b : scenario["bodies"]) bodies.push_back(b["id"]);
    const auto require_body = [&](const std::string& id, const std::string& where) {
        if (std::find(bodies.begin(), bodies.end(), id) == bodies.end())
            complain(fmt::format("{} names a body '{}', which there is not{}", where, printable(id),
                                 nearest_clause(id, bodies)));
    };
    const json& shots = scenario["shots"];
    for (std::size_t i = 0; i < shots.size(); ++i) {
        const std::string where = entry_name("shots", i, shots[i]), kind = shots[i]["kind"];
        require_body(shots[i]["body"], where);
        if (kind == "flat" && !shots[i].contains("lamp")) complain(where + " is a flat field and has no 'lamp'");
        if (kind == "patches" && !shots[i].contains("light")) complain(where + " is a patch chart and has no 'light'");
        if (kind == "chart" && !scenario.contains("chart"))
            complain(where + " needs a chart, and the scenario has none");
    }
    for (const json& c : scenario.value("colour_files", json::array()))
        require_body(c["body"], "colour_files (" + printable(c["name"].get<std::string>()) + ")");
}

ordered_json schema_of(const Form& form);

ordered_json schema_of(const Property& p) {
    ordered_json out{{"description", p.meaning}};
    const auto range = [&](ordered_json& of) {
        of["minimum"] = p.low;
        of["maximum"] = p.high;
    };
    switch (p.kind) {
        case Kind::text:
            out["type"] = "string";
            if (!p.choices.empty()) out["enum"] = p.choices;
            break;
        case Kind::whole:
        case Kind::number:
            out["type"] = p.kind == Kind::whole ? "integer" : "number";
            range(out);
            break;
        case Kind::flag: out["type"] = "boolean"; break;
        case Kind::numbers:
            out.update(
                {{"type", "array"}, {"minItems", p.count}, {"maxItems", p.count}, {"items", {{"type", "number"}}}});
            range(out["items"]);
            break;
        case Kind::steps:
            out.update(
                {{"type", "array"},
                 {"items", {{"type", "array"}, {"minItems", 2}, {"maxItems", 2}, {"items", {{"type", "integer"}}}}}});
            break;
        case Kind::object: out.update(schema_of(*p.form)); break;
        case Kind::list: out.update({{"type", "array"}, {"items", schema_of(*p.form)}}); break;
    }
    return out;
}

ordered_json schema_of(const Form& form) {
    ordered_json properties = ordered_json::object(), needed = ordered_json::array();
    for (const Property& p : form.properties) {
        properties[p.name] = schema_of(p);
        if (p.needed) needed.push_back(p.name);
    }
    ordered_json out{{"type", "object"}, {"properties", properties}, {"additionalProperties", false}};
    if (!needed.empty()) out["required"] = needed;
    return out;
}

}  // namespace

void check_scenario(const json& scenario) {
    if (!scenario.is_object()) complain("it is no JSON object");
    check_object(scenario, scenario_form(), "");
    check_references(scenario);
}

ordered_json scenario_schema() {
    ordered_json out{
        {"$schema", "https://json-schema.org/draft/2020-12/schema"},
        {"title", "A scenario of the rig"},
        {"description", "Bodies, a lens and frames of them, which 'optrel-cli rig' makes with a known truth."}};
    out.update(schema_of(scenario_form()));
    return out;
}

}  // namespace optrel::rig
