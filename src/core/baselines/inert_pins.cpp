// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/inert_pins.h"

#include <fmt/format.h>

namespace optrel {
namespace {

/// "Border is keep", when it is not what the field needs.
std::string unless(const ResolvedFrame& fields, Field field, const std::string& needed) {
    const Value& value = fields[field].value;
    return value.text == needed ? std::string() : fmt::format("{} is {}", info(field).label, to_display(field, value));
}

std::string unless_above_zero(const ResolvedFrame& fields, Field field) {
    const Value& value = fields[field].value;
    return value.number != 0 ? std::string() : fmt::format("{} is {}", info(field).label, to_display(field, value));
}

}  // namespace

std::string why_inert(Field field, const ResolvedFrame& fields) {
    switch (field) {
        case Field::temperature:
        case Field::tint: return unless(fields, Field::white_balance, "fixed");
        case Field::warmth_offset:
        case Field::tint_offset: return unless(fields, Field::white_balance, "offset");
        case Field::sharpening_radius:
        case Field::sharpening_sigmas:
        case Field::sharpening_threshold: return unless_above_zero(fields, Field::sharpening_amount);
        case Field::border_scale: return unless(fields, Field::border, "scale");
        case Field::mix_red_red:
        case Field::mix_red_green:
        case Field::mix_red_blue:
        case Field::mix_green_red:
        case Field::mix_green_green:
        case Field::mix_green_blue:
        case Field::mix_blue_red:
        case Field::mix_blue_green:
        case Field::mix_blue_blue: return unless(fields, Field::rendering, "channel mix");
        case Field::fringe_hues:
        case Field::fringe_edges: return unless_above_zero(fields, Field::fringe_suppression);
        case Field::corner_light_from: return unless_above_zero(fields, Field::corner_light);
        case Field::least_match:
            return fields[Field::lens_profile].value.text.starts_with("automatic") ? ""
                                                                                   : "Lens profile is not automatic";
        case Field::distortion_strength:
        case Field::vignetting_strength:
        case Field::fringe_strength:
            return fields[Field::lens_profile].value.text == "none" ? "Lens profile is none" : "";
        case Field::colour_look:
        case Field::colour_curve:
            return fields[Field::colour_source].value == info(Field::colour_source).neutral
                       ? "Colours come from the camera matrix"
                       : "";
        default: return "";
    }
}

}  // namespace optrel
