// SPDX-License-Identifier: GPL-3.0-or-later
// Finding how a frame's camera was held, from the lines of its scene.
#pragma once

#include <filesystem>
#include <memory>
#include <optional>
#include <vector>

#include "base/progress.h"
#include "render/framing.h"
#include "scene/straighten.h"
#include "studio/frame_development.h"

namespace optrel {

/// The lines of a frame, ready to be solved with some of them struck out, marked, or added.
struct FrameLines {
    FrameMap lens;
    int orientation = 1;
    bool focal_known = false;  ///< by the profile or the frame itself
    std::shared_ptr<const MeasuringPicture> picture = nullptr;
    std::vector<Segment> segments = {};
    std::vector<SceneLine> lines = {};  ///< for each segment
};
/// Finds them, with the distortion undone as fields and profile say. Throws Error(input) as reading does.
FrameLines find_lines(const std::filesystem::path& frame, const Metadata& metadata, const ResolvedFrame& fields,
                      const std::optional<AppliedProfile>& profile, const Progress& progress);
/// Adds one that a person drew, places in px of the frame; left open, it counts as vertical or horizontal, whichever it
/// is nearer to as it is held. Throws Error(input) where no edge is near it.
void draw_line(FrameLines& lines, const Vec2& from, const Vec2& to, LineSense sense = LineSense::open);
/// turn_of_rectangle() with the lens of a development. Throws Error(input) when nobody knows the focal length, too.
RectangleTurn level_by_corners(const std::vector<Vec2>& corners, double mark_px, const FrameDevelopment& development);

/// Throws Error(input) when there is too little to go by, or when pitch or yaw are asked for and nobody knows the focal
/// length.
Straightened straighten(const FrameLines& lines, TurnAngles angles);

}  // namespace optrel
