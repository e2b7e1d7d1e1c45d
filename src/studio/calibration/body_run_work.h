// SPDX-License-Identifier: GPL-3.0-or-later
// Makes runs that measure bodies from a folder, and says what each frame of one is.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/progress.h"
#include "store/body_runs.h"

namespace optrel {

/// One noise run for each body whose raw frames lie in the folder or in one beneath it; none is saved. `problems` gets
/// one sentence for each file that cannot be read. Throws Error(input) when there is no raw frame, Cancelled.
std::vector<BodyRun> noise_runs_of_folder(const std::filesystem::path& folder, std::vector<std::string>& problems,
                                          Progress& progress);

/// What a frame records about its exposure.
struct BodyRunShot {
    int iso = 0;
    double exposure_s = 0;  ///< 0: not recorded
    std::string problem;    ///< why the frame cannot be read; empty for a good one
};
/// One entry for each path.
std::vector<BodyRunShot> body_run_shots(const std::vector<std::filesystem::path>& frames);

/// "1/60 s", "2.5 s"; empty for 0.
std::string exposure_text(double seconds);

}  // namespace optrel
