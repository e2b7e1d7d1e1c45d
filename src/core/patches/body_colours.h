// SPDX-License-Identifier: GPL-3.0-or-later
// The measured colours of a body as a published measurement: the raw values of each patch, for each light and ISO.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "measurement/kind.h"
#include "patches/colour_measurement.h"

namespace optrel {

/// Frames of one ISO in one light.
struct ColourSetting {
    int iso = 0;
    double kelvin = 0;                           ///< of the light
    double exposure_s = 0, aperture = 0;         ///< 0: not recorded
    cv::Matx33d xyz_to_camera;                   ///< the camera's own matrix for this light
    std::array<double, 3> as_shot{}, neutral{};  ///< camera values of a neutral: as recorded, and of a perfect diffuser
    ColourFigure exposure_ev, mired, tint;       ///< see MeasuredLight
    std::vector<MeasuredPatch> patches;          ///< in the order of the chart; light falloff divided out
    std::string form;
    double mean_de2000 = 0, held_out_de2000 = 0;
};

struct BodyColours {
    std::string camera, serial;
    PatchChart chart;
    std::vector<ColourSetting> settings;  ///< by temperature, then ISO
    std::vector<std::string> frames;
    std::string author, time;  ///< ISO 8601, UTC
};

/// True for lights whose reciprocal temperatures differ by less than 40 MK^-1.
bool same_light(double kelvin_1, double kelvin_2);

BodyColours body_colours_of(const ColourMeasurement& measurement);

std::string body_colours_to_json(const BodyColours& colours);
/// Throws Error(input) about `where`.
BodyColours body_colours_from_json(const std::string& document, const std::string& where);

const MeasurementKind& colour_kind();

}  // namespace optrel
