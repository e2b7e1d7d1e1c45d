// SPDX-License-Identifier: GPL-3.0-or-later
// A whole store into another one, of whichever engine: to move a studio, to back it up, to restore it.
#pragma once

#include <string>
#include <vector>

#include "base/progress.h"
#include "store/store.h"

namespace optrel {

struct CopiedTable {
    std::string name;
    long long rows = 0;
    std::string digest;  ///< SHA-256 over its rows in order of their key
};

struct StoreCopy {
    std::vector<CopiedTable> tables;    ///< rollouts are the last one
    std::vector<std::string> problems;  ///< one sentence for each rollout whose record is damaged; it is left out
};

/// Copies all that is in `from` to `to`, which has to be empty or to hold what an earlier copy from there left off
/// with; then reads both and compares count and digest of every table. Nobody else can write to `from` meanwhile where
/// it is a folder; of a server one instant is copied. Throws Error(input) when `to` holds anything else, Error(store)
/// when the two differ at the end, Cancelled.
StoreCopy copy_store(Store& from, Store& to, Progress& progress);

/// Count and digest of every table of a store.
std::vector<CopiedTable> store_digests(Store& store, Progress& progress);

}  // namespace optrel
