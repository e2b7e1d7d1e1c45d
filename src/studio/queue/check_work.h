// SPDX-License-Identifier: GPL-3.0-or-later
// Checking sidecars against what was rolled out, as queued work.
#pragma once

#include "studio/checks/drift.h"
#include "studio/queue/every_kind.h"

namespace optrel {

/// Report of a sidecar check by the queue. Throws Error(input) for a job of another kind, and for an unfinished one.
DriftReport drift_of_job(const Store& store, int job);

}  // namespace optrel
