// SPDX-License-Identifier: GPL-3.0-or-later
// The rig's truth, written beside the frames. Nothing in core reads it.
#pragma once

#include <string>

#include "rig/camera.h"

namespace optrel::rig {

/// For a 31 x 21 grid over the ideal picture of the body, edge to edge: where each point lands in the frame on each
/// channel, and the gain that undoes the falloff there (1 in the middle). Same layout as `optrel-cli map` prints.
std::string truth_json(const Lens& lens, const Body& body);

}  // namespace optrel::rig
