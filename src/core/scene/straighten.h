// SPDX-License-Identifier: GPL-3.0-or-later
// Finds the orientation of a camera from lines of the scene that are vertical or horizontal. A line and
// the camera lie in a plane with the normal n; a direction v of the scene lies in it when n . v = 0.
// With R the turn of the camera (picture_view.h), a vertical line of the scene is vertical in the
// straightened picture when (R n)_y = 0, and a horizontal one is horizontal when (R n)_x = 0. Vertical
// lines give roll and pitch, then horizontal ones give yaw (Caprile and Torre 1990; Coughlan and Yuille
// 2003).
#pragma once

#include <string>
#include <vector>

#include "optics/picture_view.h"
#include "scene/segments.h"

namespace optrel {

/// The angles to solve; the others stay zero.
enum class TurnAngles { roll, roll_pitch, roll_pitch_yaw };
/// "roll", "roll+pitch", "roll+pitch+yaw". Throws Error(usage) for anything else.
TurnAngles turn_angles(const std::string& text);

enum class LineSense { open, vertical, horizontal, neither };

/// A line of the scene, in coordinates of the picture in its displayed orientation.
struct SceneLine {
    Vec3 normal = Vec3::UnitX();
    double sigma = 0;                   ///< one sigma of its direction, radians
    double length_px = 0;               ///< without distortion
    LineSense sense = LineSense::open;  ///< as a person set it, or open
};
/// `orientation`: Exif orientation of the frame.
SceneLine scene_line(const StraightLine& line, const FrameMap& lens, int orientation);

struct Straightened {
    CameraTurn turn;
    CameraTurn sigma;  ///< one sigma of each angle; 0 for one that is held
    int lines_used = 0;
    double residual_px = 0;  ///< RMS distance of the lines' ends from the vertical or horizontal through their middles
    std::vector<LineSense> used;  ///< for each given line: used as vertical, as horizontal, or not at all
};

/// Throws Error(input) in one sentence when there are too few lines, or when lines that a person marked contradict each
/// other.
Straightened straighten(const std::vector<SceneLine>& lines, TurnAngles angles);

/// The same from the four corners of a level rectangle in the scene, in any order, px of the frame; sigma assumes that
/// corners are marked to `mark_px` (one sigma on each axis). Throws Error(input) when three corners lie on one line or
/// the lens does not reach one.
struct RectangleTurn {
    CameraTurn turn, sigma;
};
RectangleTurn turn_of_rectangle(const std::vector<Vec2>& corners, const FrameMap& lens, int orientation,
                                double mark_px = 1);

}  // namespace optrel
