// SPDX-License-Identifier: GPL-3.0-or-later
// What this station remembers of the history of a store, so that one that was written anew is noticed.
#pragma once

#include "store/store.h"

namespace optrel {

/// Reads the whole history, compares it with what this station remembers, and remembers its newest row when all is
/// well. `accept`: what it remembers counts no more, as when a copy was restored. Where `folder` is empty, what is
/// remembered stands in the user's data directory.
HistoryAudit audit_history(Store& store, Progress& progress, bool accept = false,
                           const std::filesystem::path& folder = {});

/// From now on each change that is acknowledged to this program is remembered, so that it is missed when its row is
/// taken out of the history again.
void remember_changes();

/// The quick form for every start: one row is compared, and the newest one remembered. A sentence when it differs;
/// empty when all is well.
std::string check_witness(Store& store, const std::filesystem::path& folder = {});

}  // namespace optrel
