// SPDX-License-Identifier: GPL-3.0-or-later
// Tamper check: compares the history of a store with what this station remembers of it.
#pragma once

#include "store/store.h"

namespace optrel {

/// Verifies the whole history against the remembered rows, and remembers the newest row when it is intact. `accept`:
/// discards the remembered rows first, for example after restoring a backup. `folder`: where they are stored; empty:
/// the user's data directory.
HistoryAudit audit_history(const Store& store, Progress& progress, bool accept = false,
                           const std::filesystem::path& folder = {});

/// From now on, this program remembers every change that the store acknowledges, so that its later removal is detected.
void remember_changes();

/// Quick check at start: compares one row and remembers the newest. Returns a sentence when it differs, otherwise an
/// empty text.
std::string check_history(const Store& store, const std::filesystem::path& folder = {});

}  // namespace optrel
