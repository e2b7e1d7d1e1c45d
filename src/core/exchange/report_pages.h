// SPDX-License-Identifier: GPL-3.0-or-later
// The report of a solved run as printed pages: figures, findings, curves, coverage and residuals, board frames,
// provenance.
#pragma once

#include <opencv2/core.hpp>
#include <vector>

#include "calibration/run.h"
#include "exchange/pages.h"

namespace optrel {

/// `looks` are small pictures, as held, in the order of the frames; empty ones are left out. Each lens setting has its
/// own figures and curves; the hashes of all frames are at the end.
std::vector<Page> report_pages(const std::vector<RunFrame>& frames, const RunSolution& solution,
                               const std::vector<cv::Mat3b>& looks);

}  // namespace optrel
