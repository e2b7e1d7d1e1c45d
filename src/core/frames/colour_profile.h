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

/// Shifts of hue (degrees) and factors of saturation and value over a regular grid, for linear colours in ROMM RGB.
/// Saturation varies fastest, then hue, then value.
struct HueTable {
    int hues = 0, saturations = 0, values = 1;
    std::vector<std::array<float, 3>> entries;
    bool encoded_value = false;  ///< the values of the grid are encoded with the sRGB curve, not linear
};

/// The part of a colour profile for one light.
struct ProfileLight {
    double kelvin = 0;
    cv::Matx33d xyz_to_camera = cv::Matx33d::eye();  ///< tag ColorMatrix: XYZ of the scene to reference camera values
    std::optional<cv::Matx33d> to_xyz_d50;           ///< tag ForwardMatrix: balanced camera values to XYZ of D50
    std::optional<HueTable> hue_table;
};

struct DngColours {
    std::vector<ProfileLight> lights;  ///< one or two, lower temperature first
    bool swapped = false;              ///< the file has them in the other order
    std::optional<HueTable> look;
    std::vector<std::pair<float, float>> curve;  ///< linear in and out, ascending from 0 to 1; empty: none
    double exposure_offset = 0;                  ///< EV, added to the file's baseline exposure
    std::string signature;                       ///< tag ProfileCalibrationSignature
};

struct ColourProfile {
    std::string name;
    std::string camera;  ///< the only camera that it is for; empty: not stated
    std::string copyright;
    std::string bytes;              ///< in the form in which they are stored
    std::optional<DngColours> dng;  ///< empty: an ICC input profile, in `bytes`

    bool is_icc() const { return !dng; }
    /// "2 lights, hue table, look table, tone curve" or "ICC input profile".
    std::string contents() const;
};

/// A colour profile from the bytes of a separate file, ICC or DNG. `what` names it in messages. Throws Error(input) in
/// one sentence when it is truncated, has wrong sizes, or is something else.
ColourProfile colour_profile_from(const std::string& bytes, const std::string& what);
ColourProfile read_colour_profile(const std::filesystem::path& path);
/// Judged by the first bytes of a file; false when it cannot be read.
bool looks_like_colours(const std::filesystem::path& path);

/// The calibration of a DNG's own body, which converts to the reference camera that profiles are for.
struct BodyCalibration {
    std::string signature;       ///< tag CameraCalibrationSignature
    cv::Vec3d balance{1, 1, 1};  ///< tag AnalogBalance
    /// Tags CameraCalibration1 and 2, reference camera values to those of this body.
    std::array<cv::Matx33d, 2> by_light{cv::Matx33d::eye(), cv::Matx33d::eye()};
};

/// An unchanged tag of a TIFF directory, little-endian.
struct PlainTag {
    std::uint16_t tag = 0, type = 0;
    std::uint32_t count = 0;
    std::string value;
};

/// The bytes of a separate colour profile file of the DNG specification; tags in ascending order.
std::string colour_file_of(std::vector<PlainTag> tags);

/// The colour data in a frame. All empty when the file has none or cannot be read.
struct EmbeddedColours {
    /// The main profile of the frame first. A single matrix does not count, because every DNG has one.
    std::vector<ColourProfile> profiles;
    BodyCalibration calibration;
    std::string camera;  ///< tag UniqueCameraModel
    /// The main profile and the calibration of the body, unchanged, for a copy; empty when there are none.
    std::vector<PlainTag> own_tags;
    std::vector<std::string> problems;  ///< one sentence for each profile that cannot be used
};
EmbeddedColours embedded_colours(const OpenedFrame& frame);
/// Names of the profiles in metadata that are read already, separated by "; ".
std::string colour_names_in(const Exiv2::ExifData& exif, const std::filesystem::path& path);

}  // namespace optrel
