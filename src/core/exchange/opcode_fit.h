// SPDX-License-Identifier: GPL-3.0-or-later
// A lens correction put into the opcodes of a DNG, and how well they follow it.
#pragma once

#include <optional>

#include "frames/opcodes.h"
#include "optics/frame_map.h"

namespace optrel {

/// Distortion and lateral colour of a lens as a warp, by least squares over the picture in all three planes; the centre
/// is that of the least residual.
struct OpcodeWarp {
    Opcode warp;
    double scale = 1;                   ///< of the corrected picture that the warp makes
    double rms_px = 0, largest_px = 0;  ///< of what the warp misses, over the picture and all planes
    double green_largest_px = 0;        ///< of green alone: a whole displacement of red and blue has no place in a warp
};
/// `scale` is that of the corrected picture; WarpFisheye, which a lens of angles gets where it follows better, sets its
/// own. Throws Error(input)
/// where the lens model reaches too little of the picture.
OpcodeWarp carried_geometry(const FrameMap& lens, double scale, bool angular);

/// The falloff: one radial polynomial where that is within `enough` percent in all planes, otherwise a map for each
/// place of the mosaic's filter.
struct OpcodeGain {
    std::vector<Opcode> opcodes;
    bool in_mosaic = false;                       ///< maps: OpcodeList2; otherwise OpcodeList3, before the warp
    double rms_percent = 0, largest_percent = 0;  ///< of the gain, over the picture and all planes
};
OpcodeGain carried_falloff(const FrameMap& lens, const std::array<std::array<int, 2>, 2>& filter, double enough = 0.2);

/// What a map says at a place, px of the picture; bilinear, its edges go on.
double gain_at(const GainMap& map, int map_plane, const Vec2& place, const PictureGeometry& geometry);

}  // namespace optrel
