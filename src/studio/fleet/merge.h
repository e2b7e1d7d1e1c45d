// SPDX-License-Identifier: GPL-3.0-or-later
// Merges two entries of the register that are the same thing.
#pragma once

#include <string>

#include "baselines/tier.h"
#include "store/store.h"

namespace optrel {

/// Edit that moves serial number and claims from `from` to `to` and removes `from`. Throws Error(input) when an entry
/// is missing, or both are the same.
FleetEdit merge_edit(const Register& all, const std::vector<Claim>& claims, Claim::Of of, const std::string& from,
                     const std::string& to);

/// Moves the tiers of `from` to `to`. When both have a tier, the pins are combined, and those of `to` win.
void move_tiers(Revision& draft, Claim::Of of, const std::string& from, const std::string& to);

/// Throws Error(input) for bodies of different models, and for lenses of different focal lengths.
void require_alike(const Register& all, Claim::Of of, const std::string& from, const std::string& to);

/// Merges register and draft in one transaction.
void merge_entries(Store& store, Claim::Of of, const std::string& from, const std::string& to);

/// Undoes the newest merge of these two: entries, claims and tiers. Later changes are kept: a changed entry or claim is
/// an Error(input), and nothing is undone; changed tiers are reported in the returned sentence. Empty: everything was
/// restored.
std::string undo_merge(Store& store, Claim::Of of, const std::string& from, const std::string& to);

/// Removes an entry together with its claims.
FleetEdit take_out_edit(const Fleet& fleet, Claim::Of of, const std::string& id);

}  // namespace optrel
