// SPDX-License-Identifier: GPL-3.0-or-later
// Converts white-balanced camera values to linear sRGB by a colour profile that the fields
// choose. Profile of the DNG specification: the matrix for the light (two are
// interpolated), then the hue table in linear ROMM RGB; after exposure and levels the look
// table and the tone curve, also in linear ROMM RGB. ICC input profile: the conversion of
// Little CMS.
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

/// The colour profile that the fields choose: one in the frame, or a file; null when only the colour matrix applies.
/// Throws Error(input) when the file was not found or is for another camera.
std::shared_ptr<const ColourProfile> colour_profile_for(const RawPicture& raw, const ResolvedFrame& fields);
/// The matrices for white balance: those of the profile, or the one of the file.
CameraMatrices matrices_for(const RawPicture& raw, const ResolvedFrame& fields);

class ColourRendering {
public:
    /// `neutral`: the camera values that white balance makes grey. Throws Error(input) for an unusable
    /// profile.
    ColourRendering(const ColourProfile& profile, const RawPicture& raw, const std::array<double, 3>& neutral,
                    bool look, bool curve);

    /// Converts white-balanced camera values to linear sRGB, multiplied by `gain`. In place.
    void begin(Planes& planes, float gain) const;
    /// Applies look table and tone curve to linear sRGB. In place.
    void finish(Planes& planes) const;
    bool has_curve() const { return curve_.has_value(); }
    double exposure_offset() const { return exposure_offset_; }
    /// The estimated temperature of the light, kelvin; 0 for an ICC profile.
    double kelvin() const { return kelvin_; }

private:
    cv::Matx33f to_romm_ = cv::Matx33f::eye();
    std::optional<HueTable> hue_table_, look_;
    /// The hue table for whole pictures, where it does not depend on brightness; made when it is first wanted.
    struct Chroma;
    std::shared_ptr<Chroma> chroma_;
    std::optional<HueKeepingCurve> curve_;
    std::optional<IccColours> icc_;
    double exposure_offset_ = 0, kelvin_ = 0;
};

/// The rendering that the fields choose; null when only the colour matrix applies. Throws as the other functions do.
std::shared_ptr<const ColourRendering> colour_rendering(const RawPicture& raw, const ResolvedFrame& fields);

/// The camera values that white balance has to make grey.
std::array<double, 3> wanted_neutral(const RawPicture& raw, const ResolvedFrame& fields);
/// Multipliers of the white balance that the fields choose.
std::array<double, 3> multipliers_for(const RawPicture& raw, const ResolvedFrame& fields);

}  // namespace optrel
