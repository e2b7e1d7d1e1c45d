// SPDX-License-Identifier: GPL-3.0-or-later
// The colour spaces that pictures are written in: their primaries, their curves, and the ICC profiles that say so.
//
//   sRGB       IEC 61966-2-1
//   P3-D65     primaries of SMPTE RP 431-2 with white D65 and the curve of sRGB, as displays have it
//   Rec. 2020  ITU-R BT.2020 with its own curve (12 bits)
//   ROMM RGB   ISO 22028-2 (white D50; colours of D65 are adapted by Bradford's transform)
//   linear     primaries of sRGB, light as it is
//   camera     the camera's own primaries after the white balance, light as it is
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <opencv2/core.hpp>
#include <string>
#include <vector>

namespace optrel {

enum class ColourSpace { srgb, p3, rec2020, romm, linear, camera };
inline constexpr int colour_space_count = 6;

/// "p3-d65", for the command line and files.
std::string to_string(ColourSpace space);
/// "P3-D65", for display.
std::string name_of(ColourSpace space);
/// Inverse of to_string(), ignoring case. Throws Error(input) with the valid names.
ColourSpace colour_space_from(const std::string& text);

/// Linear sRGB to the linear values of a space; white stays white. Identity for the camera's own space.
cv::Matx33d srgb_to(ColourSpace space);

/// Linear light of a space to encoded values, and back; on [0, 1].
double encode_light(ColourSpace space, double light);
double decode_light(ColourSpace space, double value);

/// Linear light of each 16-bit value of sRGB.
const std::vector<float>& srgb_light();

/// encode_light() to 16 bits, clipped to [0, 1]. Tabulated over the square root of light, where the curves are nearly
/// straight.
class LightEncoder {
public:
    explicit LightEncoder(ColourSpace space);
    std::uint16_t operator()(float linear) const {
        const float light = std::min(1.f, std::max(0.f, linear));
        if (straight_) return static_cast<std::uint16_t>(light * 65535 + 0.5f);
        const float at = std::sqrt(light) * entries;
        const int i = static_cast<int>(at);
        return static_cast<std::uint16_t>(table_[i] + (at - i) * (table_[i + 1] - table_[i]) + 0.5f);
    }

    /// For code that processes many values at once: the table, and whether it is needed.
    static constexpr int entries = 4096;
    const float* table() const { return table_.data(); }
    bool straight() const { return straight_; }

private:
    bool straight_;
    std::array<float, entries + 2> table_;
};

/// An ICC profile of a space, made by Little CMS; equal input gives equal bytes. `camera_to_srgb` defines the camera's
/// own space.
std::string icc_profile(ColourSpace space, const cv::Matx33d& camera_to_srgb = cv::Matx33d::eye());

}  // namespace optrel
