// SPDX-License-Identifier: GPL-3.0-or-later
// What a file says about itself, through Exiv2's general access functions, so that no maker's tags are assumed.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "frames/opened_frame.h"

namespace optrel {

enum class FrameKind { raw, rendered };

/// What a frame was taken with, as far as its file says it: of very many frames the same.
struct GearMetadata {
    FrameKind kind = FrameKind::raw;
    std::string maker;
    std::string model;
    std::string body_serial;                 ///< the one that is meant to be printed on the body
    std::vector<std::string> other_serials;  ///< further numbers that the file reports, internal ones among them
    std::string lens;
    std::string lens_serial;
    double pitch_um = 0;  ///< from the focal-plane resolution; 0: not recorded
    int width = 0;        ///< pixels of the main picture as the metadata state them
    int height = 0;
    int orientation =
        1;  ///< how the picture is to be turned to be the right way up, as the Exif standard numbers it (1 to 8)
    std::string filter;  ///< colour filter array, as in RGGB; empty: not stated
    /// The camera's own settings as the Exif standard words them (0 normal, 1 less, 2 more); -1: not recorded.
    int recorded_contrast = -1, recorded_saturation = -1, recorded_sharpness = -1;
    bool recorded_rendering = false;  ///< a tone curve or a baseline exposure is embedded
    double baseline_exposure = 0;     ///< EV; only for writing a DNG
    /// Corrections of the lens that a DNG carries in opcodes, by their names in the specification; empty: none.
    std::string carries;
    /// Names of the colour profiles that a DNG carries, the main one first, with "; " between; empty: none.
    std::string colours;
    /// What Optrel corrected in this picture already, and by what profile; empty: nothing.
    std::string corrected;

    bool operator==(const GearMetadata&) const = default;
};

/// How it was set when the frame was taken; 0: not recorded.
struct SettingMetadata {
    double focal_mm = 0;
    double aperture = 0;    ///< f-number
    double distance_m = 0;  ///< focus distance
    int iso = 0;
    int equivalent_mm = 0;  ///< the focal length that shows the same on a picture with a diagonal of 43.27 mm

    bool operator==(const SettingMetadata&) const = default;
};

struct Metadata : GearMetadata, SettingMetadata {
    std::string time;  ///< as recorded

    bool operator==(const Metadata&) const = default;
};

/// Whether a file's extension is one of raw or rendered pictures: what is looked at in a folder.
bool named_as_picture(const std::filesystem::path& path);

/// Raw or rendered, told by the first bytes of the file and never by its name. Throws Error(input) for an empty file or
/// one that is no picture at all.
FrameKind sniff_kind(const OpenedFrame& frame);

/// Reads the metadata only, not the pixels. Throws Error(input) when the file is empty or damaged.
Metadata read_metadata(const OpenedFrame& frame);

/// The part of a mosaic that is meant to be seen, as a DNG says it (tag ActiveArea), in samples of the whole mosaic.
struct VisiblePart {
    int top = 0, left = 0, height = 0, width = 0;
};
/// Empty where the file does not say, or cannot be read.
std::optional<VisiblePart> stated_visible_part(const OpenedFrame& frame);

/// The rendering that a DNG embeds (DNG specification 1.6, tags BaselineExposure and ProfileToneCurve).
struct EmbeddedRendering {
    double baseline_exposure = 0;                     ///< EV
    std::vector<std::pair<float, float>> tone_curve;  ///< linear in and out, ascending; empty: none
};
/// Empty when the file embeds none or cannot be read.
EmbeddedRendering read_rendering(const OpenedFrame& frame);

/// "Maker Model" without a maker that the model already begins with.
std::string camera_name(const GearMetadata& metadata);

}  // namespace optrel
