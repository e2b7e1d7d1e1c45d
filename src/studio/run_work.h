// SPDX-License-Identifier: GPL-3.0-or-later
// Runs of a store: begun from a folder, measured frame by frame, gone on with after a stop.
#pragma once

#include <string>
#include <vector>

#include "base/progress.h"
#include "store/store.h"

namespace optrel {

/// The runs that a folder holds: one for each body and lens, not measured yet. Files that cannot be read are told in
/// `problems`. Throws Error(input) when none can.
std::vector<RunRecord> runs_of_folder(const std::filesystem::path& folder, const ChartSpec& chart,
                                      std::vector<std::string>& problems, Progress& progress);

/// The runs of a folder, kept in the store: one for each body and lens. One that was begun on the same folder and chart
/// and not measured to its end is gone on with: it keeps what it has, and takes in what is new. Files that cannot be
/// read are told in `problems`.
std::vector<RunRecord> begin_runs(Store& store, const std::filesystem::path& folder, const ChartSpec& chart,
                                  std::vector<std::string>& problems, Progress& progress);

/// Measures the frames of a run that are not measured yet and keeps each in the store as it is done, so that a stop
/// loses at most the frames that were being measured.
void measure_run(Store& store, RunRecord& run, Progress& progress,
                 CarriedCorrection carried = CarriedCorrection::refuse);

}  // namespace optrel
