// SPDX-License-Identifier: GPL-3.0-or-later
// The truth of the rig, written beside the frames. Nothing in core reads it.
#pragma once

#include <string>

#include "rig/camera.h"

namespace optrel::rig {

/// For a 31 x 21 grid over the ideal picture of the body, edge to edge: the position of each point in the frame for
/// each channel, and the gain that corrects falloff there (1 in the middle). Same layout as the output of `optrel-cli
/// map`.
std::string truth_json(const Lens& lens, const Body& body);

/// The truth of a body's sensor as JSON: noise, hot pixels (row, column, electrons) and dust (u, v, radius, depth).
std::string sensor_truth_json(const Body& body);

}  // namespace optrel::rig
