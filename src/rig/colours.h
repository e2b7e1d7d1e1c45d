// SPDX-License-Identifier: GPL-3.0-or-later
// Colour profiles of the rig's bodies, as a technician would have been given them: for lamp light and daylight, with a
// look of their own.
#pragma once

#include <string>

#include "rig/camera.h"

namespace optrel::rig {

/// A colour profile of the DNG specification in a file of its own. Same body and name, same bytes.
std::string colour_file(const Body& body, const std::string& name);

}  // namespace optrel::rig
