// SPDX-License-Identifier: GPL-3.0-or-later
// Determines how the camera was tilted in a frame, from straight lines in the scene.
#pragma once

#include <filesystem>
#include <memory>
#include <optional>
#include <vector>

#include "base/progress.h"
#include "render/framing.h"
#include "scene/straighten.h"
#include "studio/development/frame_development.h"

namespace optrel {

/// Detected lines of a frame; the user can exclude, mark and add lines.
struct FrameLines {
    FrameMap lens;
    int orientation = 1;
    bool focal_known = false;  ///< from the profile or the frame
    std::shared_ptr<const MeasuringPicture> picture = nullptr;
    std::vector<Segment> segments = {};
    std::vector<SceneLine> lines = {};  ///< one for each segment
};
/// Detects lines, with the distortion removed by fields and profile. Throws Error(input) as reading does.
FrameLines find_lines(const std::filesystem::path& frame, const Metadata& metadata, const ResolvedFrame& fields,
                      const std::optional<AppliedProfile>& profile, const Progress& progress);
/// Adds a line that the user drew (px of the frame); it counts as vertical or horizontal, whichever is nearer in
/// display orientation. Throws Error(input) when there is no edge near it.
void draw_line(FrameLines& lines, const Vec2& from, const Vec2& to, LineSense sense = LineSense::open);
/// turn_of_rectangle() with the lens of a development. Throws Error(input) also when the focal length is unknown.
RectangleTurn level_by_corners(const std::vector<Vec2>& corners, double mark_px, const FrameDevelopment& development);

/// Throws Error(input) when there are too few lines, and when pitch or yaw are requested with an unknown focal length.
Straightened straighten(const FrameLines& lines, TurnAngles angles);

}  // namespace optrel
