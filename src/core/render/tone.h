// SPDX-License-Identifier: GPL-3.0-or-later
// Converts linear camera colours to the intended linear sRGB.
#pragma once

#include "baselines/resolver.h"
#include "frames/metadata.h"
#include "render/planes.h"

namespace optrel {

class ColourRendering;

inline constexpr float luma[] = {0.2126f, 0.7152f, 0.0722f};  ///< luminance of linear sRGB (IEC 61966-2-1)

struct ToneSettings {
    double exposure_ev = 0;
    double black_point = 0;  ///< linear light that becomes black
    double contrast = 0, saturation = 0;
    bool auto_levels = false, monochrome = false;
    cv::Matx33f mix = cv::Matx33f::eye();
    std::vector<std::pair<float, float>> curve;  ///< empty: none
    /// Luminances that auto levels make black and 95 percent of white; empty: computed from the planes.
    std::optional<std::pair<float, float>> levels;
    std::shared_ptr<const ColourRendering> colours;  ///< replaces the matrix; null: the matrix applies
};
/// The tone curve of a colour profile replaces that of the DNG.
ToneSettings tone_settings(const ResolvedFrame& fields, const EmbeddedRendering& embedded,
                           std::shared_ptr<const ColourRendering> colours = nullptr);

/// The luminances that auto levels make black and 95 percent of white.
std::pair<float, float> auto_levels(Planes planes, const cv::Matx33f& matrix, const ToneSettings& settings);

/// In the order of the fields: matrix or colour profile and exposure, auto levels, black point, channel mix, look table
/// and tone curve, contrast around mid-grey (0.18), saturation, monochrome. In place.
void tone(Planes& planes, const cv::Matx33f& matrix, const ToneSettings& settings);

}  // namespace optrel
