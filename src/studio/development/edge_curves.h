// SPDX-License-Identifier: GPL-3.0-or-later
// Effect of the correction on the sharpness of an edge.
#pragma once

#include <array>
#include <filesystem>

#include "scene/slanted_edge.h"
#include "studio/development/frame_development.h"

namespace optrel {

/// Modulation across an edge by colour: on the frame's own samples, and in the corrected picture before tone curve and
/// sharpening. A curve that cannot be measured has a reason.
struct EdgeCurves {
    std::array<EdgeResponse, 3> before, after;
};
/// `from`, `to`: end points of the edge, px of the frame. Throws Error(input) as reading does.
EdgeCurves edge_curves(const std::filesystem::path& frame, const FrameDevelopment& development, const Vec2& from,
                       const Vec2& to, const Progress& progress);

}  // namespace optrel
