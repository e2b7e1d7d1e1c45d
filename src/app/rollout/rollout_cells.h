// SPDX-License-Identifier: GPL-3.0-or-later
// How frames of a rehearsal and rollouts of the history are shown in tables.
#pragma once

#include <functional>

#include "rollout/rollout.h"
#include "widgets/table.h"

namespace optrel {

Cell outcome_cell(const RehearsedFrame& frame);
Cell changes_cell(const RehearsedFrame& frame);

/// Of a rollout whose record cannot be read only its number is known.
std::function<Cell(const RolloutRecord&)> unless_damaged(std::function<Cell(const RolloutRecord&)> shows);
QString scope_of(const RolloutRecord& rollout);
Cell status_cell(const RolloutRecord& rollout);

}  // namespace optrel
