// SPDX-License-Identifier: GPL-3.0-or-later
// Table cells for rehearsed frames and rollouts.
#pragma once

#include <functional>

#include "rollout/rollout.h"
#include "widgets/table.h"

namespace optrel {

Cell outcome_cell(const RehearsedFrame& frame);
Cell changes_cell(const RehearsedFrame& frame);

/// Shows nothing for a rollout whose record is damaged.
std::function<Cell(const RolloutRecord&)> unless_damaged(std::function<Cell(const RolloutRecord&)> shows);
QString scope_of(const RolloutRecord& rollout);
Cell status_cell(const RolloutRecord& rollout);

}  // namespace optrel
