// SPDX-License-Identifier: GPL-3.0-or-later
// Report of a run: figures as JSON, pages as PDF.
#pragma once

#include <filesystem>
#include <vector>

#include "base/output.h"
#include "base/progress.h"
#include "calibration/run.h"

namespace optrel {

/// Throws as check_output() does; the extension must be .json or .pdf.
void check_report_path(const std::filesystem::path& path, Existing existing);

/// Writes figures (.json) or pages (.pdf) of a solved run. Pages contain thumbnails of board frames that can still be
/// read.
void write_report(const std::filesystem::path& path, Existing existing, const std::vector<RunFrame>& frames,
                  const RunSolution& solution, Progress& progress);

}  // namespace optrel
