// SPDX-License-Identifier: GPL-3.0-or-later
// Result of a job, combined from its portions in order.
#pragma once

#include <string>
#include <vector>

#include "store/store.h"

namespace optrel {

/// Lines of text: the overall result, then remarks on single frames, limited to a readable number.
std::vector<std::string> result_in_words(const Store& store, const QueuedJob& job,
                                         const std::vector<QueuedPortion>& portions);

}  // namespace optrel
