// SPDX-License-Identifier: GPL-3.0-or-later
// A correction as maps over a picture, for compositors and measuring scripts.
//
// Two directions:
//   to_frame   for every pixel of the corrected picture, where its light lies in the frame: what a resampling of the
//              frame reads to correct it
//   to_ideal   for every pixel of the frame, where its light lies in the corrected picture: what a resampling of a
//              corrected (or rendered) picture reads to bring it back into the frame's distortion
// A displacement is in pixels, source minus own place, x to the right and y down; places count from the outer corner of
// the first pixel, so that the middle of pixel (i, j) is (i + 0.5, j + 0.5). Where the lens model does not reach,
// values are NaN (EXR) or 0 (TIFF).
#pragma once

#include <filesystem>
#include <functional>
#include <map>
#include <opencv2/core.hpp>
#include <string>
#include <vector>

#include "base/output.h"
#include "base/progress.h"
#include "optics/frame_map.h"

namespace optrel {

enum class MapDirection { to_frame, to_ideal };
std::string to_string(MapDirection direction);
/// Throws Error(input) for any word but "to-frame" and "to-ideal".
MapDirection map_direction_from(const std::string& text);

struct MapRequest {
    MapDirection direction = MapDirection::to_frame;
    bool planes = false;  ///< also red and blue; otherwise only green
    bool gain = false;    ///< factor that corrects falloff, for the light that the pixel shows
    bool sigma = false;   ///< one sigma of the mapping, px (to_frame only)
};

/// Channels by name: "x", "y" of green; "red.x" and so on; "gain.R", "gain.G", "gain.B"; "sigma".
using MapChannels = std::map<std::string, cv::Mat1f>;

/// Maps over the whole picture of `lens`. `sigma`: one sigma at ideal places, called only when requested. Can be
/// cancelled. Throws Error(input) when sigma is requested with to_ideal.
MapChannels displacement_map(const FrameMap& lens, const MapRequest& wish,
                             const std::function<std::vector<double>(const std::vector<Vec2>&)>& sigma,
                             const Progress& progress);

/// 32-bit OpenEXR, ZIP-compressed, with the conventions and `note` in its header.
const OutputFormat& exr_output();
void write_exr(const std::filesystem::path& path, const MapChannels& channels, MapDirection direction,
               const std::string& note, Existing existing);

/// Two 16-bit TIFFs, NAME-x.tif and NAME-y.tif, of the channels "x" and "y": value = 32768 + displacement * scale, 0
/// where there is no value. Returns the scale, the largest power of two that fits all values; the descriptions of both
/// files contain it.
double write_tiff_pair(const std::filesystem::path& path, const MapChannels& channels, MapDirection direction,
                       const std::string& note, Existing existing);

}  // namespace optrel
