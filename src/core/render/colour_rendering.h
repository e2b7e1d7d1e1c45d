// SPDX-License-Identifier: GPL-3.0-or-later
// From white-balanced camera values to linear sRGB by a colour profile, as the fields of a frame ask for it.
//
// With a colour profile of the DNG specification: the matrix for the light (two are interpolated), then the hue table
// in linear ROMM RGB; after exposure and levels the look table and the tone curve, in linear ROMM RGB as well. With an
// ICC input profile: what Little CMS makes of the values.
#pragma once

#include <memory>
#include <opencv2/core.hpp>
#include <optional>
#include <string>

#include "baselines/resolver.h"
#include "frames/colour_profile.h"
#include "frames/icc_colours.h"
#include "frames/picture.h"
#include "render/colour.h"
#include "render/hue_lookup.h"
#include "render/planes.h"

namespace optrel {

/// The colour profile that the fields ask for: the one that the frame carries, or a file; null where there is none and
/// the colour matrix stands alone. Throws Error(input) when the file was not found, or is for another camera.
std::shared_ptr<const ColourProfile> colour_profile_for(const RawPicture& raw, const ResolvedFrame& fields);
/// What white balance counts on: the matrices of that profile, or the one of the file.
CameraMatrices matrices_for(const RawPicture& raw, const ResolvedFrame& fields);

class ColourRendering {
public:
    /// `neutral`: the camera values that the white balance makes grey. Throws Error(input) for a profile that cannot be
    /// used.
    ColourRendering(const ColourProfile& profile, const RawPicture& raw, const std::array<double, 3>& neutral,
                    bool look, bool curve);

    /// White-balanced camera values to linear sRGB, multiplied by `gain`. In place.
    void begin(Planes& planes, float gain) const;
    /// Look table and tone curve, on linear sRGB. In place.
    void finish(Planes& planes) const;
    bool has_curve() const { return curve_.has_value(); }
    double exposure_offset() const { return exposure_offset_; }
    /// The light that was found, kelvin; 0 for an ICC profile.
    double kelvin() const { return kelvin_; }

private:
    cv::Matx33f to_romm_ = cv::Matx33f::eye();
    std::optional<HueTable> hue_table_, look_;
    std::optional<HueKeepingCurve> curve_;
    std::optional<IccColours> icc_;
    double exposure_offset_ = 0, kelvin_ = 0;
};

/// By the fields; null where the colour matrix stands alone. Throws as the others do.
std::shared_ptr<const ColourRendering> colour_rendering(const RawPicture& raw, const ResolvedFrame& fields);

/// The camera values that the white balance is to make grey.
std::array<double, 3> wanted_neutral(const RawPicture& raw, const ResolvedFrame& fields);
/// Factors that bring about the white balance that the fields ask for.
std::array<double, 3> multipliers_for(const RawPicture& raw, const ResolvedFrame& fields);

}  // namespace optrel
