// SPDX-License-Identifier: GPL-3.0-or-later
// Figures of one place or one patch of a picture: what the sensor recorded beneath it, and what development makes of
// it.
#pragma once

#include <array>

#include "frames/colour_space.h"
#include "render/prepared_frame.h"

namespace optrel {

struct PixelReading {
    cv::Rect area;  ///< px of the corrected picture, in sensor orientation
    /// Samples beneath a single pixel, counts after black; empty for a rendered picture and for a patch.
    std::vector<PreparedFrame::RawSample> samples;
    double white = 0;  ///< counts of the white level above black
    /// Of a patch, for red, green and blue: mean and standard deviation of the counts after black.
    struct Counts {
        double mean = 0, deviation = 0;
        int samples = 0;
    };
    std::array<Counts, 3> counts;
    cv::Vec3f light;               ///< developed, linear sRGB; the mean of a patch
    cv::Vec3d lab, lab_deviation;  ///< CIE 1976, white D65; deviation: of a patch

    bool patch() const { return area.area() > 1; }
};

/// `area`: px of the corrected picture. Throws Error(input) when it lies outside the picture, is empty there, or holds
/// more than a million pixels.
PixelReading read_pixels(const PreparedFrame& frame, const ResolvedFrame& fields,
                         const std::optional<AppliedProfile>& profile, const cv::Rect& area, const Progress& progress);

/// The reading as one line of text. `space` is the colour space of the developed values, which are shown on a scale to
/// 255; `place` is where the area lies in display orientation, px.
std::string in_words(const PixelReading& reading, ColourSpace space, const cv::Point& place);

}  // namespace optrel
