// SPDX-License-Identifier: GPL-3.0-or-later
// Table rows of the Bench: frames, findings and lens models.
#pragma once

#include "calibration/run.h"
#include "widgets/table.h"

namespace optrel {

std::vector<Row> frame_rows(const std::vector<RunFrame>& frames, const RunSolution* solution);
/// One row for each finding of the solution, beginning at row `first`.
std::vector<Row> finding_rows(const RunSolution& solution);
/// Table of the lens models that were tried at a lens setting.
TableOf<ModelTrial>* new_trials_table();
/// "focal length 35.42 mm   RMS 0.0072 px ..." as rich text.
QString figures_text(const ProfileNode& node);

}  // namespace optrel
