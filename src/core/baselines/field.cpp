#include "baselines/field.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>

#include "base/error.h"

namespace optrel {
namespace {

Value number(double v) { return {v, ""}; }
Value choice(const char* text) { return {0, text}; }

std::vector<FieldInfo> make_fields() {
    using F = Field;
    using N = FieldNature;
    const auto num = [](F f, const char* id, const char* label, const char* unit, double low, double high, int decimals, double neutral, N nature, const char* meaning) {
        return FieldInfo{f, id, label, FieldType::number, unit, low, high, decimals, {}, number(neutral), nature, meaning};
    };
    const auto pick = [](F f, const char* id, const char* label, std::vector<std::string> choices, N nature, const char* meaning) {
        const Value neutral{0, choices.front()};
        return FieldInfo{f, id, label, FieldType::choice, "", 0, 0, 0, std::move(choices), neutral, nature, meaning};
    };
    std::vector<FieldInfo> fields{
        pick(F::start, "start", "Start", {"neutral"}, N::technical, "What the tiers build on; neutral is every field at its neutral value."),
        pick(F::white_balance, "white_balance", "White balance", {"as shot", "fixed"}, N::technical,
             "As shot takes the neutral that the body recorded; fixed takes temperature and tint."),
        num(F::temperature, "temperature", "Temperature", "K", 2000, 15000, 0, 5500, N::technical, "Correlated colour temperature of the light, used when white balance is fixed."),
        num(F::tint, "tint", "Tint", "", -100, 100, 0, 0, N::technical, "Shift of the white point across the daylight locus, 100 = 0.02 in v (CIE 1960); positive is towards magenta."),
        num(F::exposure, "exposure", "Exposure", "EV", -5, 5, 2, 0, N::technical, "Linear light times 2 to this power."),
        num(F::contrast, "contrast", "Contrast", "", -100, 100, 0, 0, N::look, "Slope of the tone curve at mid-grey: 2 to the power of contrast / 100."),
        num(F::saturation, "saturation", "Saturation", "", -100, 100, 0, 0, N::look, "Distance of each colour from grey of equal luminance, times 1 + saturation / 100."),
        num(F::sharpening_amount, "sharpening_amount", "Sharpening", "", 0, 150, 0, 0, N::technical, "Unsharp masking of the luminance: this percentage of the difference from its blur is added."),
        num(F::sharpening_radius, "sharpening_radius", "Sharpening radius", "px", 0.3, 3, 2, 0.8, N::technical, "One sigma of the Gaussian blur that sharpening subtracts."),
        num(F::luminance_noise, "luminance_noise", "Luminance NR", "", 0, 100, 0, 0, N::technical, "Luminance noise reduction: soft threshold of wavelet detail at strength / 40 times the measured noise."),
        num(F::colour_noise, "colour_noise", "Colour NR", "", 0, 100, 0, 0, N::technical, "Colour noise reduction: soft threshold of wavelet detail in the colour differences at strength / 20 times the measured noise."),
        FieldInfo{F::lens_profile, "lens_profile", "Lens profile", FieldType::reference, "", 0, 0, 0, {"automatic", "none"}, choice("automatic"), N::technical,
                  "Automatic takes the best profile that fits the frame's lens; none corrects nothing; or the id of one profile."},
        num(F::distortion_strength, "distortion_strength", "Distortion correction", "%", 0, 200, 0, 100, N::technical, "Share of the measured distortion that is corrected."),
        num(F::vignetting_strength, "vignetting_strength", "Vignetting correction", "%", 0, 200, 0, 100, N::technical, "Power of the measured falloff that is undone."),
        num(F::fringe_strength, "fringe_strength", "Fringe correction", "%", 0, 200, 0, 100, N::technical, "Share of the measured lateral chromatic aberration that is corrected."),
        pick(F::border, "border", "Border", {"keep", "fill", "scale"}, N::technical,
             "Keep leaves the picture at scale 1, empty edges included; fill takes the smallest scale without empty edges; scale takes the border scale."),
        num(F::border_scale, "border_scale", "Border scale", "", 0.5, 2, 3, 1, N::technical, "Scale about the middle of the picture, used when border is scale."),
    };
    return fields;
}

}  // namespace

const std::vector<FieldInfo>& all_fields() {
    static const std::vector<FieldInfo> fields = make_fields();
    return fields;
}

const FieldInfo& info(Field field) { return all_fields()[static_cast<int>(field)]; }

Field field_by_id(const std::string& id) {
    for (const FieldInfo& f : all_fields())
        if (f.id == id) return f.field;
    throw usage_error(fmt::format("There is no field '{}'; see docs/fields.md for the list.", id));
}

std::string to_text(Field field, const Value& value) { return info(field).type == FieldType::number ? fmt::format("{}", value.number) : value.text; }

Value value_from_text(Field field, const std::string& text) {
    const FieldInfo& f = info(field);
    if (f.type == FieldType::number) {
        double v = 0;
        const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), v);
        if (error != std::errc() || end != text.data() + text.size() || !std::isfinite(v))
            throw input_error(fmt::format("'{}' is not a number, as {} needs; write one between {:g} and {:g}.", text, f.label, f.low, f.high));
        if (v < f.low || v > f.high)
            throw input_error(fmt::format("{} {}{}{} is out of range; choose a value between {:g} and {:g}.", f.label, text, f.unit.empty() ? "" : " ", f.unit, f.low, f.high));
        return number(v);
    }
    if (f.type == FieldType::choice && std::find(f.choices.begin(), f.choices.end(), text) == f.choices.end())
        throw input_error(fmt::format("'{}' is no choice of {}; choose one of: {}.", text, f.label, fmt::join(f.choices, ", ")));
    if (text.empty() || text.size() > 200) throw input_error(fmt::format("{} needs a text of 1 to 200 characters; give one.", f.label));
    return {0, text};
}

std::string to_display(Field field, const Value& value) {
    const FieldInfo& f = info(field);
    if (f.type != FieldType::number) return value.text;
    std::string text = fmt::format("{:.{}f}", value.number, f.decimals);
    if (f.decimals == 0 && value.number != std::round(value.number)) text = fmt::format("{:.1f}", value.number);
    return f.unit.empty() ? text : text + " " + f.unit;
}

}  // namespace optrel
