// SPDX-License-Identifier: GPL-3.0-or-later
// The rig's chart frames and flat fields, measured, with what solves them.
#pragma once

#include "calibration/run.h"
#include "support/support.h"

namespace optrel::test {

struct RigRun {
    std::vector<RunFrame> frames;
    SolveSettings settings;
};

/// CH0001 to CH0013 and FF0001 to FF0004 on the chart "checker:15x10:30". Measured once for all test programs: what was
/// measured is kept beside the frames, and measured again when it is older than the frames or than this program.
const std::vector<RunFrame>& measured_rig();

/// The file of the profile that is solved from them, made once likewise; no test may change it.
const fs::path& solved_rig_profile();

RigRun measured_rig_run(const std::string& author);

}  // namespace optrel::test
