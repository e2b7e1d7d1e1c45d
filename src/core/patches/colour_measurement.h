// SPDX-License-Identifier: GPL-3.0-or-later
// A colour run: frames of a patch chart under one or two lights, measured and fitted.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "frames/metadata.h"
#include "patches/colour_fit.h"
#include "patches/colour_writer.h"
#include "patches/neutral_offsets.h"

namespace optrel {

struct ColourFinding {
    std::string name;  ///< short, the same in all runs: "glare"
    bool serious = false;
    std::string text, remedy;
};

/// True when the mean error of the fit (dE2000) is so large that the body cannot reproduce the chart's colours; a body
/// that sees infrared is an example.
inline bool outside_chart(double mean_de2000) { return mean_de2000 > 2.5; }

/// What was measured in one light at one ISO.
struct MeasuredLight {
    FittedLight fitted;
    std::vector<MeasuredPatch> patches;  ///< in the order of the chart; means over the frames
    std::vector<std::string> frames;
    /// Where a perfect diffuser lies in green, as EV from the white level: the difference between two bodies with the
    /// same light, aperture, time and ISO is that of their sensitivities.
    ColourFigure exposure_ev;
    /// What would make greys grey, over the white balance that the frames record: reciprocal temperature (MK^-1) and
    /// tint, as the fields warmth_offset and tint_offset take them.
    ColourFigure mired, tint;
    bool rendered = false;
    int iso = 0;
    double exposure_s = 0, aperture = 0;             ///< of the first frame; 0: not recorded
    std::array<double, 3> as_shot{1, 1, 1};          ///< camera values of a neutral as the frames record it
    cv::Matx33d xyz_to_camera = cv::Matx33d::eye();  ///< the camera's own matrix for this light
};

struct ColourMeasurement {
    Metadata body;  ///< of the first frame
    PatchChart chart;
    std::vector<MeasuredLight> lights;  ///< by temperature, then ISO
    std::vector<ColourFinding> findings;
};

struct ColourRun {
    PatchChart chart;
    std::vector<std::filesystem::path> frames;
    std::vector<std::filesystem::path> flats;  ///< even surfaces in the place of the chart
    /// Outer corners of the grid in px, from that of A1 clockwise; empty: the chart is searched.
    std::optional<std::array<cv::Point2d, 4>> corners;
};

/// Frames that cannot be used, and those of another body than the first, are left out with a finding. Throws
/// Error(input) when none can be used, or when they show more than two lights.
ColourMeasurement measure_colours(const ColourRun& run, Progress& progress);

}  // namespace optrel
