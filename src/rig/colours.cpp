// SPDX-License-Identifier: GPL-3.0-or-later
#include "rig/colours.h"

#include <cmath>
#include <cstring>

#include "frames/colour_profile.h"
#include "frames/tiff_tags.h"

namespace optrel::rig {
namespace {

void put(std::string& to, std::uint32_t v, int bytes) {
    for (int k = 0; k < bytes; ++k) to += static_cast<char>(v >> (8 * k) & 0xff);
}

PlainTag text(std::uint16_t tag, const std::string& value) {
    return {tag, 2, static_cast<std::uint32_t>(value.size() + 1), value + '\0'};
}
PlainTag number(std::uint16_t tag, std::uint16_t value) {
    PlainTag out{tag, 3, 1, {}};
    put(out.value, value, 2);
    return out;
}
PlainTag numbers(std::uint16_t tag, const std::vector<std::uint32_t>& values) {
    PlainTag out{tag, 4, static_cast<std::uint32_t>(values.size()), {}};
    for (const std::uint32_t v : values) put(out.value, v, 4);
    return out;
}
PlainTag matrix(std::uint16_t tag, const cv::Matx33d& m) {
    PlainTag out{tag, 10, 9, {}};
    for (const double v : m.val) {
        put(out.value, static_cast<std::uint32_t>(static_cast<std::int32_t>(std::lround(v * 10000))), 4);
        put(out.value, 10000, 4);
    }
    return out;
}
PlainTag floats(std::uint16_t tag, const std::vector<float>& values) {
    PlainTag out{tag, 11, static_cast<std::uint32_t>(values.size()), {}};
    for (const float v : values) {
        std::uint32_t bits = 0;
        std::memcpy(&bits, &v, 4);
        put(out.value, bits, 4);
    }
    return out;
}

/// Shadows slightly lighter, highlights slightly softer.
std::vector<float> curve() {
    std::vector<float> out;
    for (int i = 0; i <= 32; ++i) {
        const double x = i / 32.0;
        out.push_back(static_cast<float>(x));
        out.push_back(static_cast<float>(x + 0.5 * x * (1 - x) * (1 - x)));
    }
    return out;
}

/// Greens shifted towards yellow by four degrees, and slightly more saturation.
std::vector<float> look(int hues, int saturations) {
    std::vector<float> out;
    for (int hue = 0; hue < hues; ++hue)
        for (int s = 0; s < saturations; ++s) {
            const double degrees = 360.0 * hue / hues, green = std::max(0.0, 1 - std::abs(degrees - 120) / 60);
            out.insert(out.end(), {static_cast<float>(-4 * green), 1.06f, 1.0f});
        }
    return out;
}

}  // namespace

std::string colour_file(const Body& body, const std::string& name) {
    constexpr int lamp = 17, daylight = 21;  // LightSource of Exif: illuminants A and D65
    constexpr int hues = 12, saturations = 4;
    // Another light has another best matrix, because the curves of the sensor are not those of the eye.
    const cv::Matx33d warmer(1.04, -0.03, 0.01, -0.01, 1.02, -0.02, 0, -0.01, 1.05);
    return colour_file_of({text(tag::unique_camera_model, body.model),
                           matrix(tag::color_matrix_1, body.xyz_to_camera * warmer),
                           matrix(tag::color_matrix_2, body.xyz_to_camera), number(tag::calibration_illuminant_1, lamp),
                           number(tag::calibration_illuminant_2, daylight), text(tag::profile_name, name),
                           floats(tag::profile_tone_curve, curve()), text(tag::profile_copyright, "No rights reserved"),
                           numbers(tag::profile_look_table_dims, {hues, saturations, 1}),
                           floats(tag::profile_look_table_data, look(hues, saturations))});
}

}  // namespace optrel::rig
