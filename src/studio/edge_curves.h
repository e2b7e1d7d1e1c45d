// SPDX-License-Identifier: GPL-3.0-or-later
// What a correction does to the sharpness of one edge of a frame.
#pragma once

#include <array>
#include <filesystem>

#include "scene/slanted_edge.h"
#include "studio/frame_development.h"

namespace optrel {

/// The modulation across one edge, colour by colour: in the frame's own samples, and in the corrected picture before
/// tones and sharpening. What cannot be measured says why.
struct EdgeCurves {
    std::array<EdgeResponse, 3> before, after;
};
/// `from`, `to`: px of the frame, along the edge. Throws Error(input) as reading does.
EdgeCurves edge_curves(const std::filesystem::path& frame, const FrameDevelopment& development, const Vec2& from,
                       const Vec2& to, const Progress& progress);

}  // namespace optrel
