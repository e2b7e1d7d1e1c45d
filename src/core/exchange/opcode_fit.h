// SPDX-License-Identifier: GPL-3.0-or-later
// Converts a lens correction to the opcodes of a DNG, with the residual.
#pragma once

#include <optional>

#include "frames/opcodes.h"
#include "frames/picture.h"
#include "optics/frame_map.h"

namespace optrel {

/// Distortion and lateral colour of a lens as a warp, by least squares over the picture in all three planes; its centre
/// minimises the residual.
struct OpcodeWarp {
    Opcode warp;
    double scale = 1;                   ///< of the corrected picture that the warp gives
    double rms_px = 0, largest_px = 0;  ///< residual of the warp, over the picture and all planes
    double green_largest_px = 0;        ///< of green alone, because a warp cannot shift red and blue as a whole
};
/// `scale` is that of the corrected picture; WarpFisheye, which is used for fisheyes when it
/// fits better, sets its own. Throws Error(input) when the lens model covers too little of the
/// picture.
OpcodeWarp carried_geometry(const FrameMap& lens, double scale, bool angular);

/// The falloff: one radial polynomial when it fits within `enough` percent in all planes, otherwise maps: one for each
/// site of a Bayer filter, or one for each plane of the interpolated picture.
struct OpcodeGain {
    std::vector<Opcode> opcodes;
    bool in_mosaic = false;                       ///< maps are in OpcodeList2; otherwise OpcodeList3, before the warp
    double rms_percent = 0, largest_percent = 0;  ///< of the gain, over the picture and all planes
};
OpcodeGain carried_falloff(const FrameMap& lens, SampleLayout layout, const SitePattern<int>& filter,
                           double enough = 0.2);

/// The gain of a map at a place, px of the picture; bilinear, constant beyond its edges.
double gain_at(const GainMap& map, int map_plane, const Vec2& place, const PictureGeometry& geometry);

}  // namespace optrel
