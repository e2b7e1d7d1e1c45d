// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/field.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <iterator>

#include "base/error.h"
#include "base/words.h"
#include "baselines/fringe_hues.h"
#include "optics/inside_crop.h"

namespace optrel {
namespace {

using F = Field;
constexpr auto technical = FieldNature::technical;
constexpr auto look = FieldNature::look;

/// A row of the table, all of it known when Optrel is compiled.
struct FieldRow {
    F field;
    const char *id, *label;
    FieldType type = FieldType::choice;
    const char* unit = "";
    double low = 0, high = 0;
    int decimals = 0;
    std::array<const char*, 4> choices{};  ///< the first is neutral; no more: null
    double neutral = 0;
    FieldNature nature = technical;
    const char* meaning = "";
};

constexpr FieldRow num(F f, const char* id, const char* label, const char* unit, double low, double high, int decimals,
                       double neutral, FieldNature nature, const char* meaning) {
    return {f, id, label, FieldType::number, unit, low, high, decimals, {}, neutral, nature, meaning};
}
constexpr FieldRow pick(F f, const char* id, const char* label, std::array<const char*, 4> choices, FieldNature nature,
                        const char* meaning, FieldType type = FieldType::choice) {
    return {f, id, label, type, "", 0, 0, 0, choices, 0, nature, meaning};
}
constexpr FieldRow flag(F f, const char* id, const char* label, FieldNature nature, const char* meaning) {
    return pick(f, id, label, {"off", "on"}, nature, meaning, FieldType::flag);
}

constexpr std::size_t colour_hash_length = 12;

constexpr FieldRow rows[] = {
    pick(F::start, "start", "Start", {"neutral", "as recorded"}, technical,
         "What the tiers build on, resolved before all other fields. Neutral: every field at its neutral value. As "
         "recorded: what the file says of its rendering, contrast, "
         "saturation and sharpness, and what the register adds for its model; never for rendered files. Or a named "
         "set.",
         FieldType::reference),
    pick(F::white_balance, "white_balance", "White balance", {"as shot", "fixed", "offset"}, technical,
         "As shot takes the neutral that the body recorded; fixed takes temperature and tint; offset takes the "
         "recorded neutral moved by the warmth and tint offsets of the body."),
    num(F::temperature, "temperature", "Temperature", "K", 2000, 15000, 0, 5500, technical,
        "Correlated colour temperature of the light, used when white balance is fixed."),
    num(F::tint, "tint", "Tint", "", -100, 100, 0, 0, technical,
        "Shift of the white point across the daylight locus, 100 = 0.02 in v (CIE 1960); positive is towards "
        "magenta."),
    num(F::warmth_offset, "warmth_offset", "Warmth offset", "MK⁻¹", -100, 100, 1, 0, technical,
        "Added to the reciprocal of the recorded colour temperature, in reciprocal megakelvin, when white balance "
        "is offset; positive renders cooler."),
    num(F::tint_offset, "tint_offset", "Tint offset", "", -50, 50, 1, 0, technical,
        "Added to the recorded tint when white balance is offset."),
    num(F::exposure, "exposure", "Exposure", "EV", -5, 5, 2, 0, technical, "Linear light times 2 to this power."),
    num(F::black_point, "black_point", "Black point", "%", -5, 20, 2, 0, technical,
        "The linear light b, in percent of white, that becomes black: y = (x - b) / (1 - b), after exposure."),
    pick(
        F::colour_source, "colour_source", "Colours from", {"camera matrix", "carried"}, technical,
        "What renders the colours of raw frames: the colour matrix of the camera; carried, the colour profile that the "
        "frame itself carries, where it carries one; or a colour file of the studio (an ICC input profile, or a colour "
        "profile of the DNG specification), by name. With two lights the white balance says how far it is between "
        "them.",
        FieldType::reference),
    flag(F::colour_look, "colour_look", "Colours: look table", look,
         "On: the look table of the colour profile is used, after exposure, where it has one."),
    flag(F::colour_curve, "colour_curve", "Colours: tone curve", look,
         "On: the tone curve of the colour profile is used, with its exposure offset, where it has them; it takes the "
         "place of the curve that rendering as recorded would take from the file."),
    num(F::contrast, "contrast", "Contrast", "", -100, 100, 0, 0, look,
        "Slope of the tone curve at mid-grey: 2 to the power of contrast / 100."),
    flag(F::auto_levels, "auto_levels", "Auto levels", look,
         "On: for each frame, the 0.1th percentile of the luminance becomes black and the 99.9th 95 percent of "
         "white, in linear light, after exposure."),
    pick(F::rendering, "rendering", "Rendering", {"neutral", "as recorded", "monochrome", "channel mix"}, technical,
         "Neutral takes the colour matrix alone; as recorded adds the tone curve and the baseline exposure that a "
         "DNG embeds; monochrome is the luminance (IEC 61966-2-1 weights) of "
         "the picture; channel mix makes each channel from the nine weights."),
    num(F::mix_red_red, "mix_red_red", "Mix R from R", "%", -200, 200, 0, 100, technical,
        "Share of the linear red light that goes into red when rendering is channel mix."),
    num(F::mix_red_green, "mix_red_green", "Mix R from G", "%", -200, 200, 0, 0, technical,
        "Share of the linear green light that goes into red when rendering is channel mix."),
    num(F::mix_red_blue, "mix_red_blue", "Mix R from B", "%", -200, 200, 0, 0, technical,
        "Share of the linear blue light that goes into red when rendering is channel mix."),
    num(F::mix_green_red, "mix_green_red", "Mix G from R", "%", -200, 200, 0, 0, technical,
        "Share of the linear red light that goes into green when rendering is channel mix."),
    num(F::mix_green_green, "mix_green_green", "Mix G from G", "%", -200, 200, 0, 100, technical,
        "Share of the linear green light that goes into green when rendering is channel mix."),
    num(F::mix_green_blue, "mix_green_blue", "Mix G from B", "%", -200, 200, 0, 0, technical,
        "Share of the linear blue light that goes into green when rendering is channel mix."),
    num(F::mix_blue_red, "mix_blue_red", "Mix B from R", "%", -200, 200, 0, 0, technical,
        "Share of the linear red light that goes into blue when rendering is channel mix."),
    num(F::mix_blue_green, "mix_blue_green", "Mix B from G", "%", -200, 200, 0, 0, technical,
        "Share of the linear green light that goes into blue when rendering is channel mix."),
    num(F::mix_blue_blue, "mix_blue_blue", "Mix B from B", "%", -200, 200, 0, 100, technical,
        "Share of the linear blue light that goes into blue when rendering is channel mix."),
    num(F::saturation, "saturation", "Saturation", "", -100, 100, 0, 0, look,
        "Distance of each colour from grey of equal luminance, times 1 + saturation / 100."),
    num(F::sharpening_amount, "sharpening_amount", "Sharpening", "", 0, 150, 0, 0, technical,
        "Unsharp masking of the luminance: this percentage of the difference from its blur is added."),
    num(F::sharpening_radius, "sharpening_radius", "Sharpening radius", "px", 0.3, 3, 2, 0.8, technical,
        "One sigma of the Gaussian blur that sharpening subtracts."),
    num(F::sharpening_threshold, "sharpening_threshold", "Sharpening threshold", "%", 0, 20, 1, 0, technical,
        "Differences d from the blur, in percent of white, are sharpened by the share d^2 / (d^2 + t^2), so "
        "that what is weaker than the threshold t is left alone."),
    num(F::sharpening_sigmas, "sharpening_sigmas", "Sharpening above noise", "sigma", 0, 10, 1, 0, technical,
        "A further threshold t in sigmas of the noise that is left at each brightness after noise reduction and tones: "
        "of the body's measured noise at this ISO, otherwise of an estimate from the frame. The larger threshold "
        "counts. For raw frames."),
    num(F::luminance_noise, "luminance_noise", "Luminance NR", "", 0, 100, 0, 0, technical,
        "Luminance noise reduction by wavelets: detail is removed where its energy around a place does not exceed that "
        "of noise of strength / 40 times the measured sigma; stronger detail is kept in proportion."),
    num(F::colour_noise, "colour_noise", "Colour NR", "", 0, 100, 0, 0, technical,
        "Colour noise reduction: the same in the colour differences, at strength / 20 times the measured sigma."),
    flag(F::noise_elsewhere, "noise_elsewhere", "Noise treated elsewhere", technical,
         "On: a later program treats the noise, so neither noise reduction is applied here, whatever is "
         "pinned."),
    flag(F::hot_pixel_repair, "hot_pixel_repair", "Hot-pixel repair", technical,
         "On: a raw sample that lies above the largest of its eight neighbours of the same colour by more than "
         "6 sigma of the measured noise, and by more than half of its own value, is replaced by their median."),
    pick(F::lens_profile, "lens_profile", "Lens profile", {"automatic", "none"}, technical,
         "Automatic takes the best profile that fits the frame's lens; none corrects nothing; or the id of "
         "one profile, with @ and a number for one of its versions.",
         FieldType::reference),
    pick(F::least_match, "least_match", "Least match", {"rescaled", "same model", "own copy"}, technical,
         "The poorest match grade that an automatic lens profile may have."),
    num(F::distortion_strength, "distortion_strength", "Distortion correction", "%", 0, 200, 0, 100, technical,
        "Share of the measured distortion that is corrected."),
    num(F::vignetting_strength, "vignetting_strength", "Vignetting correction", "%", 0, 200, 0, 100, technical,
        "Power of the measured falloff that is undone."),
    num(F::fringe_strength, "fringe_strength", "Fringe correction", "%", 0, 200, 0, 100, technical,
        "Share of the measured lateral chromatic aberration that is corrected."),
    num(F::hand_distortion, "hand_distortion", "Distortion by hand", "%", -30, 30, 2, 0, technical,
        "Distortion of the frame that is undone besides the profile's, in percent of the radius at the corner, growing "
        "with the third power of the radius: negative is barrel, positive pincushion."),
    num(F::red_at_corner, "red_at_corner", "Red at corner", "px", -20, 20, 2, 0, technical,
        "How far red lies outside green in the corner of the frame, besides what the profile says; it is undone in "
        "proportion to the radius, but for its bow."),
    num(F::red_bow, "red_bow", "Red bow", "px", -20, 20, 2, 0, technical,
        "How much further in red lies than in proportion to the radius, at 0.58 of the field height h, where that is "
        "most: it grows as 2.598 (h - h^3), and is 0 in the corner. Most lenses bow."),
    num(F::blue_at_corner, "blue_at_corner", "Blue at corner", "px", -20, 20, 2, 0, technical,
        "How far blue lies outside green in the corner of the frame, as red at corner."),
    num(F::blue_bow, "blue_bow", "Blue bow", "px", -20, 20, 2, 0, technical,
        "How much further in blue lies than in proportion to the radius, as red bow."),
    num(F::corner_light, "corner_light", "Corner light", "EV", -4, 4, 2, 0, technical,
        "By how much the corner is lightened besides the profile: from the height h0 at which it begins, a field "
        "height "
        "h gets ((h - h0) / (1 - h0))^2 of it."),
    num(F::corner_light_from, "corner_light_from", "Corner light from", "", 0, 0.95, 2, 0, technical,
        "The field height at which corner light begins; 0 is the middle of the picture, 1 its corner."),
    num(F::fringe_suppression, "fringe_suppression", "Fringe suppression", "%", 0, 100, 0, 0, technical,
        "At edges, colour that red and blue have against green and that neither side of the edge shows is reduced by "
        "this "
        "percentage, whatever its hue. The sides are taken 4, 8 and 14 px away."),
    pick(F::fringe_hues, "fringe_hues", "Fringe hues", {"none"}, technical,
         "Ranges of hue in which such colour is reduced by more, in degrees with a percentage each, as 260-340 80, "
         "90-150 "
         "50: 0 is red, 120 green, 240 blue, 300 purple. It fades over 10 degrees beyond a range.",
         FieldType::reference),
    pick(F::fringe_edges, "fringe_edges", "Fringes at", {"all edges", "bright edges"}, technical,
         "At bright edges: only where the brighter side is above half of white."),
    num(F::roll, "roll", "Roll", "°", -45, 45, 2, 0, technical,
        "How far the camera was turned clockwise, as seen from behind it; it is undone with pitch and yaw, as R = "
        "yaw about the vertical, times pitch about the horizontal, times roll about the lens's axis."),
    num(F::pitch, "pitch", "Pitch", "°", -60, 60, 2, 0, technical,
        "How far the camera was pointed upwards of the level; undoing it makes vertical lines parallel. The "
        "perspective is "
        "computed with the focal length, so that proportions come out right."),
    num(F::yaw, "yaw", "Yaw", "°", -60, 60, 2, 0, technical,
        "How far the camera was pointed to the right of a line square to what it looks at; undoing it makes level "
        "lines parallel."),
    num(F::shift_across, "shift_across", "Shift across", "%", -50, 50, 2, 0, technical,
        "How far the corrected picture is moved to the right, in percent of its width."),
    num(F::shift_down, "shift_down", "Shift down", "%", -50, 50, 2, 0, technical,
        "How far the corrected picture is moved down, in percent of its height."),
    pick(F::border, "border", "Border", {"keep", "fill", "scale"}, technical,
         "Keep leaves the picture at scale 1, empty edges included; fill takes the smallest scale without "
         "empty edges; scale takes the border scale."),
    num(F::border_scale, "border_scale", "Border scale", "", 0.5, 2, 3, 1, technical,
        "Scale about the middle of the picture, used when border is scale."),
    pick(F::crop, "crop", "Crop", {"none", "largest", "largest as frame"}, technical,
         "What is kept of the corrected picture: none keeps all of it; largest the largest rectangle without an empty "
         "place, of any proportion, of the frame's, or of one that is given (largest 3:2); at, with left, top, width "
         "and "
         "height in percent, that rectangle (at 10 5 80 90). The exported file has its size.",
         FieldType::reference),
};

constexpr bool in_order() {
    for (int i = 0; i < field_count; ++i)
        if (rows[i].field != static_cast<F>(i)) return false;
    return true;
}
static_assert(std::size(rows) == field_count, "every field has a row, and every row a field");
static_assert(in_order(), "a row stands where its field stands in the enumeration");

Value number(double v) { return {v, ""}; }

FieldInfo info_of(const FieldRow& row) {
    FieldInfo out{row.field, row.id,       row.label, row.type, row.unit,   row.low,
                  row.high,  row.decimals, {},        {},       row.nature, row.meaning};
    for (const char* choice : row.choices)
        if (choice) out.choices.emplace_back(choice);
    out.neutral = row.type == FieldType::number ? number(row.neutral) : Value{0, out.choices.front()};
    return out;
}

}  // namespace

const std::vector<FieldInfo>& all_fields() {
    static const std::vector<FieldInfo> fields = [] {
        std::vector<FieldInfo> out;
        for (const FieldRow& row : rows) out.push_back(info_of(row));
        return out;
    }();
    return fields;
}

const FieldInfo& info(Field field) { return all_fields()[static_cast<int>(field)]; }

FieldGroup group_of(Field field) {
    // The first field of each group.
    static constexpr F first[] = {F::start,        F::colour_source,   F::mix_red_red, F::sharpening_amount,
                                  F::lens_profile, F::hand_distortion, F::roll};
    static_assert(std::size(first) == field_group_count);
    if (field == F::saturation) return FieldGroup::tone;  // stands behind the mixing weights
    int group = field_group_count - 1;
    while (field < first[group]) --group;
    return static_cast<FieldGroup>(group);
}

const char* to_string(FieldGroup group) {
    static constexpr const char* names[] = {"Light", "Tone and colour", "Mixing weights", "Detail",
                                            "Lens",  "Lens by hand",    "Framing"};
    return names[static_cast<int>(group)];
}

namespace {

std::string typed_form(const std::string& text) {
    std::string out = lowered(text);
    for (char& c : out)
        if (c == ' ' || c == '-') c = '_';
    return out;
}

}  // namespace

std::optional<Field> find_field(const std::string& text) {
    const std::string typed = typed_form(text);
    for (const FieldInfo& f : all_fields())
        if (typed == f.id || typed == typed_form(f.label)) return f.field;
    return std::nullopt;
}

Field field_named(const std::string& text) {
    const std::optional<Field> found = find_field(text);
    return found ? *found : field_by_id(text);
}

Field field_by_id(const std::string& id) {
    for (const FieldInfo& f : all_fields())
        if (f.id == id) return f.field;
    std::vector<std::string> ids;
    for (const FieldInfo& f : all_fields()) ids.push_back(f.id);
    throw usage_error(
        fmt::format("There is no field '{}'{}; 'optrel-cli baseline fields' lists them.", id, nearest_clause(id, ids)));
}

std::string to_text(Field field, const Value& value) {
    return info(field).type == FieldType::number ? fmt::format("{}", value.number) : value.text;
}

Value value_from_text(Field field, const std::string& text) {
    const FieldInfo& f = info(field);
    if (f.type == FieldType::number) {
        double v = 0;
        const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), v);
        if (error != std::errc() || end != text.data() + text.size() || !std::isfinite(v))
            throw input_error(fmt::format("'{}' is not a number, as {} needs; write one between {:g} and {:g}.", text,
                                          f.label, f.low, f.high));
        if (v < f.low || v > f.high)
            throw input_error(fmt::format("{} {}{}{} is out of range; choose a value between {:g} and {:g}.", f.label,
                                          text, f.unit.empty() ? "" : " ", f.unit, f.low, f.high));
        return number(v);
    }
    const bool listed = std::find(f.choices.begin(), f.choices.end(), text) != f.choices.end();
    if (f.type != FieldType::reference && !listed)
        throw input_error(
            fmt::format("'{}' is no choice of {}; choose one of: {}.", text, f.label, fmt::join(f.choices, ", ")));
    if (field == Field::start && !listed && set_named_by({0, text}).empty())
        throw input_error(
            fmt::format("'{}' is no start; choose neutral, as recorded, or the word set and the name of a set.", text));
    if (field == Field::fringe_hues) fringe_hues(text);
    if (field == Field::crop) crop_wish(text);  // throws what is wrong with it
    if (text.empty() || text.size() > 200)
        throw input_error(fmt::format("{} needs a text of 1 to 200 characters; give one.", f.label));
    return {0, text};
}

std::string to_display(Field field, const Value& value) {
    const FieldInfo& f = info(field);
    if (f.type != FieldType::number) return value.text;
    std::string text = fmt::format("{:.{}f}", value.number, f.decimals);
    if (f.decimals == 0 && value.number != std::round(value.number)) text = fmt::format("{:.1f}", value.number);
    return f.unit.empty() ? text : text + " " + f.unit;
}

Value value_of_colour_file(const std::string& name, const std::string& hash) {
    return {0, fmt::format("{} #{}", name.substr(0, 120), hash.substr(0, colour_hash_length))};
}

std::string colour_file_hash(const Value& value) {
    const std::size_t at = value.text.rfind(" #");
    if (at == std::string::npos || value.text.size() - at - 2 != colour_hash_length) return {};
    const std::string hash = value.text.substr(at + 2);
    return hash.find_first_not_of("0123456789abcdef") == std::string::npos ? hash : std::string();
}

std::string set_named_by(const Value& value) { return value.text.rfind("set ", 0) == 0 ? value.text.substr(4) : ""; }
Value value_of_set(const std::string& name) { return {0, "set " + name}; }

}  // namespace optrel
