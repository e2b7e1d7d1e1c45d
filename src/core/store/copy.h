// SPDX-License-Identifier: GPL-3.0-or-later
// Copies a whole store into another one, of either engine: to move, back up or restore a studio.
#pragma once

#include <string>
#include <vector>

#include "base/progress.h"
#include "store/store.h"

namespace optrel {

struct CopiedTable {
    std::string name;
    long long rows = 0;
    std::string digest;  ///< SHA-256 over the rows, ordered by their key
};

struct StoreCopy {
    std::vector<CopiedTable> tables;    ///< rollouts are the last table
    std::vector<std::string> problems;  ///< one sentence for each damaged rollout, which is left out
};

/// Copies `from` into `to`, which must be empty or hold an interrupted copy of the same store; then compares count and
/// digest of every table. A folder store is locked against other writers meanwhile; a server store is read in one
/// snapshot. Throws Error(input) when `to` holds anything else, Error(store) when the copies differ, Cancelled.
StoreCopy copy_store(Store& from, Store& to, Progress& progress);

/// Row count and digest of every table.
std::vector<CopiedTable> store_digests(Store& store, Progress& progress);

}  // namespace optrel
