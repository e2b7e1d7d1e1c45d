// What a file says about itself, through Exiv2's general access functions, so that no maker's tags are assumed.
#pragma once

#include <filesystem>
#include <string>

namespace optrel {

enum class FrameKind { raw, rendered };

struct Metadata {
    FrameKind kind = FrameKind::raw;
    std::string maker;
    std::string model;
    std::string body_serial;
    std::string lens;
    std::string lens_serial;
    double focal_mm = 0;    ///< 0: not recorded, here and below
    double aperture = 0;    ///< f-number
    int iso = 0;
    double distance_m = 0;  ///< focus distance
    double pitch_um = 0;    ///< from the focal-plane resolution
    int width = 0;          ///< pixels of the main picture as the metadata state them
    int height = 0;
    std::string time;       ///< as recorded
};

/// Raw or rendered, told by the first bytes of the file and never by its name. Throws Error(input) for an empty file or one
/// that is no picture at all.
FrameKind sniff_kind(const std::filesystem::path& path);

/// Reads the metadata only, not the pixels. Throws Error(input) when the file is empty or damaged.
Metadata read_metadata(const std::filesystem::path& path);

/// "Maker Model" without a maker that the model already begins with.
std::string camera_name(const Metadata& metadata);

}  // namespace optrel
