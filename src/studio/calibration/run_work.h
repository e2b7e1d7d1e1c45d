// SPDX-License-Identifier: GPL-3.0-or-later
// Measuring runs of a store: begin, measure frame by frame, and continue after an interruption.
#pragma once

#include <filesystem>
#include <string>
#include <utility>
#include <vector>

#include "base/progress.h"
#include "frames/metadata.h"
#include "store/store.h"

namespace optrel {

/// Metadata of the frames in a folder and in those beneath it, by path. Files that cannot be read are left out, with
/// one sentence each in `problems`. Throws Cancelled, and Error(file) for a folder that cannot be read.
std::vector<std::pair<std::filesystem::path, Metadata>> metadata_of_folder(const std::filesystem::path& folder,
                                                                           std::vector<std::string>& problems,
                                                                           Progress& progress);

/// Runs in a folder, one for each body and lens, unmeasured. Unreadable files are reported in `problems`. Throws
/// Error(input) when no file is readable.
std::vector<RunRecord> runs_of_folder(const std::filesystem::path& folder, const ChartSpec& chart,
                                      std::vector<std::string>& problems, Progress& progress);

/// The same, saved in the store. An unfinished run of the same folder and chart is continued, including new files.
/// Unreadable files are reported in `problems`.
std::vector<RunRecord> begin_runs(Store& store, const std::filesystem::path& folder, const ChartSpec& chart,
                                  std::vector<std::string>& problems, Progress& progress);

/// Positions of the frames that measuring a run still measures: those that have no result yet, and with measure_mosaic
/// those that were left out because they carry a correction.
std::vector<int> frames_to_measure(const RunRecord& run, EmbeddedOpcodes carried = EmbeddedOpcodes::refuse);

/// Measures the unmeasured frames of a run and saves each when it is done, so that an interruption loses only frames in
/// progress.
void measure_run(Store& store, RunRecord& run, Progress& progress, EmbeddedOpcodes carried = EmbeddedOpcodes::refuse);

}  // namespace optrel
