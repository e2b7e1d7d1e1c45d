// SPDX-License-Identifier: GPL-3.0-or-later
// A scenario: which bodies, which lens, which frames. The demo scenario is scenarios/herbarium.json.
#pragma once

#include <filesystem>
#include <string>

#include "base/progress.h"
#include "rig/lens.h"

namespace optrel::rig {

/// Text of the scenario that ships with Optrel.
std::string demo_scenario();

/// Makes the frames of a scenario below `out`: calibration/, specimens/, and truth/ beside them, and its colour files.
/// Frames that are already there with the same description are kept. Same scenario, same bytes. Throws Error(input) for
/// a scenario that cannot be read.
void make_frames(const std::string& scenario_json, const std::filesystem::path& out, Progress& progress);

/// Presses the shutter of a simulated camera once: a specimen as a body of the scenario photographs it, each time
/// another one, in the folder that stands for what is on the camera. Returns the file. Throws Error(input) for a
/// scenario that cannot be read or a body that takes no specimens in it, Error(file) for a camera that is not there.
std::filesystem::path shoot(const std::string& scenario_json, const std::string& body,
                            const std::filesystem::path& camera, Progress& progress);

/// The lens of a scenario, before any shot changes it. Throws as make_frames() does.
Lens scenario_lens(const std::string& scenario_json);

}  // namespace optrel::rig
