// SPDX-License-Identifier: GPL-3.0-or-later
// Converts developed light to the values of a screen, by the screen's ICC profile.
//
// Profiles of two kinds (ICC.1:2022, 8.4): primaries and curves are applied to unclipped linear light; for tables the
// light is encoded in 16-bit ROMM RGB and converted by Little CMS.
#pragma once

#include <memory>
#include <opencv2/core.hpp>
#include <string>

#include "render/planes.h"

namespace optrel {

/// Rendering intents of ICC.1:2022, 6.1.
enum class Intent { perceptual, relative_colorimetric, saturation, absolute_colorimetric };
inline constexpr int intent_count = 4;
/// "relative colorimetric"
std::string to_string(Intent intent);

struct ScreenSettings {
    std::string profile;  ///< bytes of an ICC profile; empty: sRGB
    Intent intent = Intent::relative_colorimetric;
    /// The black of the picture becomes the black of the screen (ISO 18619).
    bool black_point_compensation = true;

    bool operator==(const ScreenSettings&) const = default;
};

/// Immutable, so that threads may share it.
class ScreenColours {
public:
    /// Throws Error(input) for a profile that is damaged, or not one of an RGB screen.
    explicit ScreenColours(const ScreenSettings& settings);
    ~ScreenColours();
    /// The conversion for a screen without a known profile.
    static const std::shared_ptr<const ScreenColours>& srgb();

    /// The profile's own description; "sRGB" when there is none.
    const std::string& name() const { return name_; }
    const ScreenSettings& settings() const { return settings_; }

    /// Values of the screen, 16 bits, for linear sRGB light; light may lie outside sRGB.
    cv::Mat3w encoded(const Planes& linear_srgb) const;
    /// The same for a picture that is encoded in sRGB already.
    cv::Mat3w encoded(const cv::Mat3w& srgb) const;
    /// Not 0 where a colour lies outside what the screen can show: where a* and b* of what it shows (CIE 1976) are
    /// more than `outside_limit` away from what they should be.
    /// `values`: what encoded() made of the same light.
    cv::Mat1b outside(const Planes& linear_srgb, const cv::Mat3w& values) const;
    static constexpr float outside_limit = 2;

private:
    struct Curves;
    struct Tables;

    ScreenSettings settings_;
    std::string name_ = "sRGB";
    std::unique_ptr<Curves> curves_;
    std::unique_ptr<Tables> tables_;
};

/// From 16 to 8 bits with an ordered dither of 8 x 8 (Bayer 1973): means over areas stay what they are, and equal
/// pictures stay equal.
cv::Mat3b dithered(const cv::Mat3w& picture);

}  // namespace optrel
