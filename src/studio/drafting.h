// SPDX-License-Identifier: GPL-3.0-or-later
// What people do to a draft, as changes of its value. The window keeps each as an undoable edit, the command line makes
// it inside a transaction of the store (StoredBaselines::change_draft); what is allowed, and how it is refused, is said
// here once.
//
// Each throws Error(input) with what is wrong and leaves the draft half changed then: callers work on a copy.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "baselines/tier.h"
#include "optics/profile.h"
#include "store/store.h"
#include "studio/references.h"

namespace optrel {

/// What somebody typed for a field: nothing, or "inherits", takes a pin out; profiles, colour files and sets are looked
/// up by name.
std::optional<Pin> typed_pin(Field field, const std::string& text, const References& known, const Revision& draft);

// Tiers, by their ids.

/// Adds one. Refused when there is one of the same conditions.
void add_tier(Revision& draft, const Tier& tier);
void rename_tier(Revision& draft, const std::string& id, const std::string& name);
void delete_tier(Revision& draft, const std::string& id);
/// Brings back a tier that the draft has no more.
void bring_back_tier(Revision& draft, const Tier& tier);
/// An empty pin takes the pin out; refused when there is none.
void pin_in_tier(Revision& draft, const std::string& id, Field field, const std::optional<Pin>& pin);
/// The tier uses this set after all others, or no more.
void use_set(Revision& draft, const std::string& id, const std::string& set, bool use);
/// The sets that a tier uses, in order, as "name, name"; nothing or "none" for none.
void use_sets(Revision& draft, const std::string& id, const std::string& names);
/// A tier that says nothing is taken out.
void drop_empty_tier(Revision& draft, const std::string& id);

// Sets, by their names.

/// Adds an empty set and returns its name, which no other has.
std::string add_set(Revision& draft);
/// Pins in a set, which is made when there is none; an empty pin takes the pin out of one that is there.
void pin_in_set(Revision& draft, const std::string& name, Field field, const std::optional<Pin>& pin);
/// The sets that a set builds on, as "name, name"; nothing or "nothing" for none.
void build_set_on(Revision& draft, const std::string& name, const std::string& names);
/// A new name wherever the set is named.
void rename_set_to(Revision& draft, const std::string& name, const std::string& to);
/// Refused while something uses it.
void delete_set(Revision& draft, const std::string& name);

/// Whether what is there gives way to what comes in.
enum class TakeIn { refuse_others, replace };
/// Adds sets; returns the names of those that replaced another one.
std::vector<std::string> take_in_sets(Revision& draft, const std::vector<PinSet>& sets, TakeIn how);
/// Tiers and sets of another baseline in the place of all that the draft says. Returns how many changes against
/// `current`, the newest revision, were replaced; refused when there are any, but for TakeIn::replace.
int take_in_draft(Revision& draft, const Revision& wanted, const Revision& current, TakeIn how);

// Publishing.

struct Published {
    Revision revision;
    std::vector<RevisionChange> changes;  ///< against the revision before
};
/// The draft as the next revision; see StoredBaselines::publish().
Published publish_draft(Store& store, const std::string& author, const std::string& note,
                        const Revision* expected = nullptr,
                        StoredBaselines::ProfileVersions versions = StoredBaselines::ProfileVersions::follow);

}  // namespace optrel
