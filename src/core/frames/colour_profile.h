// SPDX-License-Identifier: GPL-3.0-or-later
// How a body's raw colours are rendered, as files say it: colour profiles of the DNG specification, and ICC input
// profiles.
//
// A colour profile of the DNG specification (1.6, chapters "Camera Profiles" and "Mapping Camera Color Space to CIE XYZ
// Space") stands among the tags of a DNG, once or several times, or in a file of its own, which is laid out like a TIFF
// with 0x4352 in place of its version.
#pragma once

#include <array>
#include <cstdint>
#include <filesystem>
#include <opencv2/core.hpp>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "frames/opened_frame.h"

namespace Exiv2 {
class ExifData;
}

namespace optrel {

/// Shifts of hue (degrees), factors of saturation and of value over a regular grid, for linear colours of ROMM RGB.
/// Saturations come quickest, then hues, then values.
struct HueTable {
    int hues = 0, saturations = 0, values = 1;
    std::vector<std::array<float, 3>> entries;
    bool encoded_value = false;  ///< the grid's values are those of the sRGB curve, not light itself
};

/// What a colour profile says for one light.
struct ProfileLight {
    double kelvin = 0;
    cv::Matx33d xyz_to_camera = cv::Matx33d::eye();  ///< tag ColorMatrix: XYZ of the scene to reference camera values
    std::optional<cv::Matx33d> to_xyz_d50;           ///< tag ForwardMatrix: balanced camera values to XYZ of D50
    std::optional<HueTable> hue_table;
};

struct DngColours {
    std::vector<ProfileLight> lights;  ///< one or two, the lower temperature first
    bool swapped = false;              ///< the file has them the other way round
    std::optional<HueTable> look;
    std::vector<std::pair<float, float>> curve;  ///< linear in and out, ascending from 0 to 1; empty: none
    double exposure_offset = 0;                  ///< EV, added to the file's baseline exposure
    std::string signature;                       ///< tag ProfileCalibrationSignature
};

struct ColourProfile {
    std::string name;
    std::string camera;  ///< the only one that it is for; empty: not said
    std::string copyright;
    std::string bytes;              ///< as they are kept
    std::optional<DngColours> dng;  ///< of the other kind: an ICC input profile, in `bytes`

    bool is_icc() const { return !dng; }
    /// "2 lights, hue table, look table, tone curve" or "ICC input profile".
    std::string contents() const;
};

/// A colour profile from the bytes of a file of its own, ICC or DNG. `what` names it in messages. Throws Error(input)
/// in one sentence for what is truncated, lies about its sizes, or is something else.
ColourProfile colour_profile_from(const std::string& bytes, const std::string& what);
ColourProfile read_colour_profile(const std::filesystem::path& path);
/// Told by the first bytes of a file; false as well where it cannot be read.
bool looks_like_colours(const std::filesystem::path& path);

/// What a DNG says of its own body beside all profiles: what brings it to the reference that profiles are for.
struct BodyCalibration {
    std::string signature;       ///< tag CameraCalibrationSignature
    cv::Vec3d balance{1, 1, 1};  ///< tag AnalogBalance
    /// Tags CameraCalibration1 and 2, reference camera values to those of this body.
    std::array<cv::Matx33d, 2> by_light{cv::Matx33d::eye(), cv::Matx33d::eye()};
};

/// A tag of a TIFF directory as it stands, little-endian.
struct PlainTag {
    std::uint16_t tag = 0, type = 0;
    std::uint32_t count = 0;
    std::string value;
};

/// The bytes of a colour profile of the DNG specification that stands by itself; tags in ascending order.
std::string colour_file_of(std::vector<PlainTag> tags);

/// What a frame carries of this kind. All of it is empty for a file that carries nothing, or cannot be read.
struct EmbeddedColours {
    /// The frame's main one first. A matrix for one light alone counts as none: every DNG has that.
    std::vector<ColourProfile> profiles;
    BodyCalibration calibration;
    std::string camera;  ///< tag UniqueCameraModel
    /// The main profile and the body's calibration as they stand in the file, for a copy; empty where there is none.
    std::vector<PlainTag> own_tags;
    std::vector<std::string> problems;  ///< of profiles that cannot be used, a sentence each
};
EmbeddedColours embedded_colours(const OpenedFrame& frame);
/// Their names, of a file whose metadata are read already, with "; " between.
std::string colour_names_in(const Exiv2::ExifData& exif, const std::filesystem::path& path);

}  // namespace optrel
