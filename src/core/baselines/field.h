// The fields that a baseline can pin: what each means, its unit, its range, and what it is when nothing pins it.
#pragma once

#include <string>
#include <vector>

namespace optrel {

enum class Field {
    start,
    white_balance,
    temperature,
    tint,
    exposure,
    contrast,
    saturation,
    sharpening_amount,
    sharpening_radius,
    luminance_noise,
    colour_noise,
    lens_profile,
    distortion_strength,
    vignetting_strength,
    fringe_strength,
    border,
    border_scale,
};
inline constexpr int field_count = static_cast<int>(Field::border_scale) + 1;

enum class FieldType { number, choice, reference };
enum class FieldNature { technical, look };

/// A value of a field: a number, or the text of a choice or a reference.
struct Value {
    double number = 0;
    std::string text;

    bool operator==(const Value& other) const { return number == other.number && text == other.text; }
    bool operator!=(const Value& other) const { return !(*this == other); }
};

struct FieldInfo {
    Field field;
    std::string id;     ///< as in files and on the command line
    std::string label;  ///< as in the window
    FieldType type;
    std::string unit;
    double low = 0, high = 0;
    int decimals = 0;
    std::vector<std::string> choices;
    Value neutral;
    FieldNature nature;
    std::string meaning;  ///< one sentence
};

const FieldInfo& info(Field field);
const std::vector<FieldInfo>& all_fields();

/// Throws Error(usage) for an unknown id.
Field field_by_id(const std::string& id);

/// "25", "as shot", "p3f2...": as in files. value_from_text() is its inverse and throws Error(input) when the text is no value of
/// the field or out of its range.
std::string to_text(Field field, const Value& value);
Value value_from_text(Field field, const std::string& text);
/// With the unit and the decimals of the field, for people.
std::string to_display(Field field, const Value& value);

}  // namespace optrel
