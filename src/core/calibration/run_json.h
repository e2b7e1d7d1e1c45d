// SPDX-License-Identifier: GPL-3.0-or-later
// Measured frames of a run as text, to be stored.
#pragma once

#include <string>

#include "calibration/run.h"

namespace optrel {

std::string run_frame_to_json(const RunFrame& frame);
/// Throws Error(store) when the text is damaged.
RunFrame run_frame_from_json(const std::string& text, const std::string& where);

}  // namespace optrel
