// SPDX-License-Identifier: GPL-3.0-or-later
// The figures of a solved run as one JSON document, for the command line and for filing with the lens.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <vector>

#include "calibration/run.h"

namespace optrel {

/// Keys of the first lens setting are at the top, those of all settings under "nodes". Lengths are in px unless the key
/// says mm.
nlohmann::json run_report(const std::vector<RunFrame>& frames, const RunSolution& solution);

/// Falloff (EV, negative towards the corner) of a channel at a field height from the falloff's own centre (ISO 17957).
double falloff_ev(const Falloff& falloff, Channel channel, double height, double half_diagonal_mm);

}  // namespace optrel
