// SPDX-License-Identifier: GPL-3.0-or-later
// Reads the metadata of a file through Exiv2's general functions, so that no maker's tags are assumed.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "frames/opened_frame.h"

namespace optrel {

enum class FrameKind { raw, rendered };

/// Camera and lens according to the file; equal for very many frames.
struct GearMetadata {
    FrameKind kind = FrameKind::raw;
    std::string maker;
    std::string model;
    std::string body_serial;                 ///< the number that is printed on the body
    std::vector<std::string> other_serials;  ///< other serial numbers in the file, also internal ones
    std::string lens;
    std::string lens_serial;
    double pitch_um = 0;  ///< from the focal-plane resolution; 0: not recorded
    int width = 0;        ///< pixels of the main picture according to the metadata
    int height = 0;
    int orientation = 1;  ///< rotation to the way it was held, as numbered by Exif (1 to 8)
    std::string filter;   ///< colour filter array, as in RGGB; empty: not stated
    /// Settings of the camera as in Exif (0 normal, 1 less, 2 more); -1: not recorded.
    int recorded_contrast = -1, recorded_saturation = -1, recorded_sharpness = -1;
    bool recorded_rendering = false;  ///< a tone curve or a baseline exposure is embedded
    double baseline_exposure = 0;     ///< EV; only for writing a DNG
    double exposure_s = 0;            ///< likewise; frames/exposure_time.h reads it
    /// Lens corrections in the opcodes of a DNG, by their names in the specification; empty: none.
    std::string carries;
    /// Names of the colour profiles in a DNG, main one first, separated by "; "; empty: none.
    std::string colours;
    /// Corrections that Optrel applied to this picture, and their profile; empty: none.
    std::string corrected;

    bool operator==(const GearMetadata&) const = default;
};

/// Settings when the frame was taken; 0: not recorded.
struct SettingMetadata {
    double focal_mm = 0;
    double aperture = 0;    ///< f-number
    double distance_m = 0;  ///< focus distance
    int iso = 0;
    int equivalent_mm = 0;  ///< focal length with the same angle of view on a picture with a diagonal of 43.27 mm

    bool operator==(const SettingMetadata&) const = default;
};

struct Metadata : GearMetadata, SettingMetadata {
    std::string time;  ///< as recorded

    bool operator==(const Metadata&) const = default;
};

/// True when a file has the extension of a raw or rendered picture.
bool named_as_picture(const std::filesystem::path& path);

/// Distinguishes raw and rendered files by their first bytes, never by name. Throws Error(input) for an empty file or
/// one that is not a picture.
FrameKind sniff_kind(const OpenedFrame& frame);

/// Reads only the metadata. Throws Error(input) when the file is empty or damaged.
Metadata read_metadata(const OpenedFrame& frame);

/// The visible part of a mosaic according to a DNG (tag ActiveArea), in samples of the whole mosaic.
struct VisiblePart {
    int top = 0, left = 0, height = 0, width = 0;
};
/// Empty when it is not stated or the file cannot be read.
std::optional<VisiblePart> stated_visible_part(const OpenedFrame& frame);

/// The rendering in a DNG (DNG specification 1.6, tags BaselineExposure and ProfileToneCurve).
struct EmbeddedRendering {
    double baseline_exposure = 0;                     ///< EV
    std::vector<std::pair<float, float>> tone_curve;  ///< linear in and out, ascending; empty: none
};
/// Empty when the file embeds none or cannot be read.
EmbeddedRendering read_rendering(const OpenedFrame& frame);

/// "Maker Model", without the maker when the model begins with it.
std::string camera_name(const GearMetadata& metadata);

}  // namespace optrel
