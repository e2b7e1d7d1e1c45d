// SPDX-License-Identifier: GPL-3.0-or-later
// Edits of a draft, for the window (as undoable edits) and for the command line (inside
// StoredBaselines::change_draft()).
//
// Each function throws Error(input) when the edit is not allowed. The draft may then be partly changed, so callers work
// on a copy.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "baselines/tier.h"
#include "optics/profile.h"
#include "store/store.h"
#include "studio/baselines/references.h"

namespace optrel {

/// Parses the input for a field: empty or "inherits" removes the pin; profiles, colour files and sets are found by
/// name.
std::optional<Pin> typed_pin(Field field, const std::string& text, const References& known, const Revision& draft);

// Edits of tiers, identified by id.

/// Adds a tier. Refused when one with the same conditions exists.
void add_tier(Revision& draft, const Tier& tier);
void rename_tier(Revision& draft, const std::string& id, const std::string& name);
void delete_tier(Revision& draft, const std::string& id);
/// Restores a deleted tier.
void bring_back_tier(Revision& draft, const Tier& tier);
/// Sets a pin; an empty one removes the pin, which must exist.
void pin_in_tier(Revision& draft, const std::string& id, Field field, const std::optional<Pin>& pin);
/// Adds a set to the end of a tier's sets, or removes it.
void use_set(Revision& draft, const std::string& id, const std::string& set, bool use);
/// Sets of a tier in order, as "name, name"; empty or "none" for none.
void use_sets(Revision& draft, const std::string& id, const std::string& names);
/// Removes a tier without pins and sets.
void drop_empty_tier(Revision& draft, const std::string& id);

// Edits of sets, identified by name.

/// Adds an empty set and returns its unique name.
std::string add_set(Revision& draft);
/// Sets a pin in a set, which is created if necessary; an empty pin removes the existing one.
void pin_in_set(Revision& draft, const std::string& name, Field field, const std::optional<Pin>& pin);
/// Included sets, as "name, name"; empty or "nothing" for none.
void build_set_on(Revision& draft, const std::string& name, const std::string& names);
/// Renames a set and all references to it.
void rename_set_to(Revision& draft, const std::string& name, const std::string& to);
/// Refused while the set is used.
void delete_set(Revision& draft, const std::string& name);

/// Whether imported entries replace existing ones.
enum class TakeIn { refuse_others, replace };
/// Adds sets; returns the names of replaced ones.
std::vector<std::string> take_in_sets(Revision& draft, const std::vector<PinSet>& sets, TakeIn how);
/// Replaces all tiers and sets by those of another baseline. Returns the number of unpublished changes that were lost;
/// refused when there are any, unless TakeIn::replace is given.
int take_in_draft(Revision& draft, const Revision& wanted, const Revision& current, TakeIn how);

// Publishing.

struct Published {
    Revision revision;
    std::vector<RevisionChange> changes;  ///< changes against the previous revision
};
/// Publishes the draft; see StoredBaselines::publish().
Published publish_draft(Store& store, const std::string& author, const std::string& note,
                        const Revision* expected = nullptr,
                        StoredBaselines::ProfileVersions versions = StoredBaselines::ProfileVersions::follow);

}  // namespace optrel
