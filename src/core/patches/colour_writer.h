// SPDX-License-Identifier: GPL-3.0-or-later
// Writes fitted colours as files of open specifications: an ICC input profile, or a colour profile of the DNG
// specification.
#pragma once

#include <string>
#include <vector>

#include "patches/colour_fit.h"

namespace optrel {

/// One fitted light.
struct FittedLight {
    ColourFit fit;
    cv::Vec2d white;    ///< chromaticity of the light (CIE 1931), as the camera's own matrix sees its neutral
    double kelvin = 0;  ///< its correlated temperature
};

struct ColourFileText {
    std::string name;    ///< for people: "Brimholt B2 B2-0117, chart of 2026-12-01"
    std::string camera;  ///< the only camera that it is for, as files name it; empty: not stated
    std::string copyright;
};

/// XYZ of the scene to camera values, such that the fit's neutral is neutral in its light.
cv::Matx33d colour_matrix(const FittedLight& light);

/// For white-balanced linear camera colours, as raw converters give them to an input profile: three columns for a
/// matrix, a table of 33 x 33 x 33 for another form. Class "input", D50, relative colorimetric.
std::string icc_of(const FittedLight& light, const ColourFileText& text);

/// Lights in ascending temperature, one or two: ColorMatrix and ForwardMatrix for each, and a hue table for a form that
/// is more than a matrix. Throws Error(input) when two lights are nearest to the same standard light.
std::string dng_profile_of(const std::vector<FittedLight>& lights, const ColourFileText& text);

}  // namespace optrel
