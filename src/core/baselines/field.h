// SPDX-License-Identifier: GPL-3.0-or-later
// The fields that a baseline can pin: meaning, unit, range and neutral value of each.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace optrel {

enum class Field {
    start,
    white_balance,
    temperature,
    tint,
    warmth_offset,
    tint_offset,
    exposure,
    black_point,
    colour_source,
    colour_look,
    colour_curve,
    contrast,
    auto_levels,
    rendering,
    mix_red_red,
    mix_red_green,
    mix_red_blue,
    mix_green_red,
    mix_green_green,
    mix_green_blue,
    mix_blue_red,
    mix_blue_green,
    mix_blue_blue,
    saturation,
    sharpening_amount,
    sharpening_radius,
    sharpening_threshold,
    sharpening_sigmas,
    luminance_noise,
    colour_noise,
    noise_elsewhere,
    hot_pixel_repair,
    lens_profile,
    least_match,
    distortion_strength,
    vignetting_strength,
    fringe_strength,
    hand_distortion,
    red_at_corner,
    red_bow,
    blue_at_corner,
    blue_bow,
    corner_light,
    corner_light_from,
    fringe_suppression,
    fringe_hues,
    fringe_edges,
    roll,
    pitch,
    yaw,
    shift_across,
    shift_down,
    border,
    border_scale,
    crop,
};
inline constexpr int field_count = static_cast<int>(Field::crop) + 1;

/// Groups of fields, in display order.
enum class FieldGroup { light, tone, mixing, detail, lens, by_hand, framing };
inline constexpr int field_group_count = static_cast<int>(FieldGroup::framing) + 1;
/// Title in the window: "Lens by hand".
const char* to_string(FieldGroup group);

enum class FieldType { number, choice, flag, reference };
/// Technical fields belong in a baseline. Look fields are a matter of taste: lint questions them.
enum class FieldNature { technical, look };

/// A value of a field: a number, or a text (a choice, "off" or "on", or a reference).
struct Value {
    double number = 0;
    std::string text;

    bool operator==(const Value& other) const { return number == other.number && text == other.text; }
    bool operator!=(const Value& other) const { return !(*this == other); }
};

struct FieldInfo {
    Field field;
    std::string id;     ///< name in files and on the command line
    std::string label;  ///< label in the window
    FieldType type;
    std::string unit;
    double low = 0, high = 0;
    int decimals = 0;
    std::vector<std::string> choices;
    Value neutral;
    FieldNature nature;
    std::string meaning;  ///< one or two sentences, with the formula where there is one
};

const FieldInfo& info(Field field);
FieldGroup group_of(Field field);
const std::vector<FieldInfo>& all_fields();

/// Finds a field by its id. Throws Error(usage) for an unknown id.
Field field_by_id(const std::string& id);
/// Finds a field by its id or label; ignores case and accepts spaces, hyphens and underscores.
std::optional<Field> find_field(const std::string& text);
/// The same; throws Error(usage) when there is none.
Field field_named(const std::string& text);

/// Text form of a value in files: "25", "as shot", "p3f2...". value_from_text() is the inverse; it throws Error(input)
/// for an invalid text or a value outside the range.
std::string to_text(Field field, const Value& value);
Value value_from_text(Field field, const std::string& text);
/// Text form for users, with unit and the decimals of the field.
std::string to_display(Field field, const Value& value);

/// Value of colour_source for the colour profile inside the frame.
inline constexpr const char* carried_colours_word = "carried";
/// Value of colour_source for a colour file: its name and the beginning of its SHA-256, "Warm room #3fa9c2d10b44". The
/// function returns the second part, or nothing when the value names no file.
Value value_of_colour_file(const std::string& name, const std::string& hash);
std::string colour_file_hash(const Value& value);

/// A start or a lens profile can refer to a set: "set NAME". Returns the name, or nothing when the value is no such
/// reference.
std::string set_named_by(const Value& value);
Value value_of_set(const std::string& name);

}  // namespace optrel
