// SPDX-License-Identifier: GPL-3.0-or-later
// How a camera was held, from lines of the scene that are vertical or horizontal.
//
// A line and the camera lie in a plane with the normal n; a direction v of the scene is in it when n . v = 0. With R
// the turn of the camera (picture_view.h), a line that is vertical in the scene is vertical in the straightened picture
// when (R n)_y = 0, a horizontal one when (R n)_x = 0. Verticals give roll and pitch, horizontals then yaw (Caprile and
// Torre 1990; Coughlan and Yuille 2003).
#pragma once

#include <string>
#include <vector>

#include "optics/picture_view.h"
#include "scene/segments.h"

namespace optrel {

/// Which angles are solved; the others are held at zero.
enum class TurnAngles { roll, roll_pitch, roll_pitch_yaw };
/// "roll", "roll+pitch", "roll+pitch+yaw". Throws Error(usage) for anything else.
TurnAngles turn_angles(const std::string& text);

enum class LineSense { open, vertical, horizontal, neither };

/// A line to straighten by, in the coordinates of the picture as it is held.
struct SceneLine {
    Vec3 normal = Vec3::UnitX();
    double sigma = 0;                   ///< one sigma of its direction, radians
    double length_px = 0;               ///< without distortion
    LineSense sense = LineSense::open;  ///< as a person says, or left open
};
/// `orientation`: Exif, of the frame.
SceneLine scene_line(const StraightLine& line, const FrameMap& lens, int orientation);

struct Straightened {
    CameraTurn turn;
    CameraTurn sigma;  ///< one sigma of each angle; 0 for one that is held
    int lines_used = 0;
    double residual_px =
        0;  ///< RMS of what the lines' ends lie beside the vertical or horizontal through their middles
    std::vector<LineSense> used;  ///< for each line given: as what it was used, or neither
};

/// Throws Error(input) in one sentence when there is too little to go by, or when lines that a person marked contradict
/// each other.
Straightened straighten(const std::vector<SceneLine>& lines, TurnAngles angles);

/// The same from the four corners of a rectangle that stands level in the scene, in any order, px of the frame; sigma
/// is that of corners which are marked to `mark_px` (one sigma, each way). Throws Error(input) when three lie on one
/// line or the lens does not reach one.
struct RectangleTurn {
    CameraTurn turn, sigma;
};
RectangleTurn turn_of_rectangle(const std::vector<Vec2>& corners, const FrameMap& lens, int orientation,
                                double mark_px = 1);

}  // namespace optrel
