// SPDX-License-Identifier: GPL-3.0-or-later
// What came of a job of the queue, put together from its portions in their order.
#pragma once

#include <string>
#include <vector>

#include "studio/drift.h"

namespace optrel {

/// Lines for people: first what came of it as a whole, then what is to be known of single frames, of very many only
/// so many as can be read.
std::vector<std::string> result_in_words(Store& store, const QueuedJob& job,
                                         const std::vector<QueuedPortion>& portions);

/// What a check by the queue found, as one made here would tell it. Throws Error(input) for a job that is no check, or
/// that has not ended.
DriftReport drift_of_job(Store& store, int job);

}  // namespace optrel
