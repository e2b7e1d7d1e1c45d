// SPDX-License-Identifier: GPL-3.0-or-later
// Two entries of the register that turn out to be one thing.
#pragma once

#include <string>

#include "baselines/tier.h"
#include "store/store.h"

namespace optrel {

/// The edit after which `to` holds what `from` held: its number and its claims; `from` leaves the register. Throws
/// Error(input) when either is not there, or both are the same.
FleetEdit merge_edit(const Register& all, const std::vector<Claim>& claims, Claim::Of of, const std::string& from,
                     const std::string& to);

/// The tiers of `from` become those of `to`. A tier that both have is put together; what that of `to` pins itself
/// stays.
void move_tiers(Revision& draft, Claim::Of of, const std::string& from, const std::string& to);

/// Throws Error(input) for bodies of two models, and for lenses of other focal lengths: these are hardly one thing.
void require_alike(const Register& all, Claim::Of of, const std::string& from, const std::string& to);

/// Both at once in a store.
void merge_entries(Store& store, Claim::Of of, const std::string& from, const std::string& to);

/// Takes the newest merge of these two back: entries, claims and tiers of the draft are as they were. What was changed
/// since stays: of an entry or a claim that is an Error(input), and nothing is taken back; of tiers a sentence is
/// returned. Empty: all is as it was.
std::string undo_merge(Store& store, Claim::Of of, const std::string& from, const std::string& to);

/// Takes an entry out of the register: the claims that lead to it, or name it, go along.
FleetEdit take_out_edit(const Fleet& fleet, Claim::Of of, const std::string& id);

}  // namespace optrel
