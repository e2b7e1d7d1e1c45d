// SPDX-License-Identifier: GPL-3.0-or-later
// The report of a run, as a file: figures as JSON, pages as PDF.
#pragma once

#include <filesystem>
#include <vector>

#include "base/output.h"
#include "base/progress.h"
#include "calibration/run.h"

namespace optrel {

/// Throws as check_output() does; a report is .json or .pdf.
void check_report_path(const std::filesystem::path& path, Existing existing);

/// Writes the figures (.json) or the pages (.pdf) of a solved run. The pages show small pictures of the board frames
/// that can still be read.
void write_report(const std::filesystem::path& path, Existing existing, const std::vector<RunFrame>& frames,
                  const RunSolution& solution, Progress& progress);

}  // namespace optrel
