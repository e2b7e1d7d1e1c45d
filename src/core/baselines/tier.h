// SPDX-License-Identifier: GPL-3.0-or-later
// Tiers, sets and revisions: the parts of a baseline.
#pragma once

#include <optional>
#include <string>
#include <tuple>
#include <vector>

#include "baselines/pin.h"

namespace optrel {

enum class Scope { studio, model, body };
enum class LensCondition { any, model, copy };

/// A named, reusable list of pins for some fields. It may include other sets, which are applied first, in order.
struct PinSet {
    std::string name;  ///< unique within a baseline; used in references
    std::string note;
    std::vector<std::string> sets;
    Pins pins;
    std::string origin = {};  ///< origin, as text, when it was imported; empty: made here
    bool operator==(const PinSet& o) const = default;
};

/// A rule of a baseline. It applies to a frame when all its conditions hold.
struct Tier {
    std::string id;  ///< permanent id, unique within a baseline
    std::string name;
    Scope scope = Scope::studio;
    std::string target;  ///< camera name for scope model; body id for scope body
    LensCondition lens_condition = LensCondition::any;
    std::string lens;  ///< lens text (any lens of the model) or lens id (one individual lens)
    std::optional<std::pair<double, double>> iso_span;  ///< ISO range, both ends included
    bool raw = true;
    bool rendered = false;
    std::vector<std::string> sets;  ///< sets, applied in order before the tier's own pins
    Pins pins;
    std::string origin;  ///< origin, as text, when it was imported; empty: made here

    /// Later tiers override earlier ones field by field.
    std::tuple<int, int, int> rank() const {
        return {static_cast<int>(scope), static_cast<int>(lens_condition), iso_span ? 1 : 0};
    }
    bool operator==(const Tier& o) const = default;
};

/// Identifier of an entry of a baseline.
inline const std::string& id_of(const Tier& t) { return t.id; }
inline const std::string& id_of(const PinSet& s) { return s.name; }

/// A baseline: draft (number 0) or published revision.
struct Revision {
    int number = 0;
    std::string author, time, note;
    std::vector<Tier> tiers;
    std::vector<PinSet> sets;
    /// Additions of the register to the start "as recorded", by camera name. A published revision keeps its own copy.
    std::map<std::string, Pins> recorded_adds;
    /// Time (ISO 8601, UTC) at which lens profiles must be current to be used, when the revision pins their versions.
    /// Empty: profiles that are current when a frame is developed.
    std::string profiles_as_of;
    /// For a draft from a store: its edit counter, by which a write detects concurrent edits.
    int edits = -1;

    const PinSet* set(const std::string& name) const;
    const Tier* tier(const std::string& id) const;
    Tier* tier(const std::string& id) { return const_cast<Tier*>(std::as_const(*this).tier(id)); }
    PinSet* set(const std::string& name) { return const_cast<PinSet*>(std::as_const(*this).set(name)); }
};

/// A pin that a tier or a set gives for a field, with the innermost set that contains it (null: the tier's own pin).
struct FieldStatement {
    Field field;
    const Pin* pin;
    const PinSet* set;
};
/// All pins for a field from sets and own pins, in order; later ones override earlier ones. Missing sets and circular
/// references are ignored.
std::vector<FieldStatement> sayings(const Revision& revision, const std::vector<std::string>& sets, const Pins& own);

/// Throws Error(input) for a set that includes itself, directly or indirectly, and for a reference to a missing set.
void check_sets(const Revision& revision);

/// Throws Error(input) for an invalid name: empty, too long, or with a colon or a comma.
void check_set_name(const std::string& name);

/// Renames a set and all references to it.
void rename_set(Revision& revision, const std::string& from, const std::string& to);

/// Names of tiers and sets that use a set.
std::vector<std::string> users_of_set(const Revision& revision, const std::string& name);

/// Two tiers of equal rank whose conditions can hold for the same frame and that pin the same field, directly or by
/// sets.
struct Conflict {
    std::string tier_a, tier_b;  ///< names
    std::string id_a, id_b;
    Field field;
    std::string sentence() const;
};
std::vector<Conflict> find_conflicts(const Revision& revision);

/// "body Brimholt B2/0117, ISO 1600-6400".
std::string describe_conditions(const Tier& tier);

std::string revision_to_json(const Revision& revision);
/// Throws Error(input) when the document is not a baseline of this or an older format.
Revision revision_from_json(const std::string& text, const std::string& where);

/// Sets as a separate document, for use in another studio.
std::string sets_to_json(const std::vector<PinSet>& sets);
std::vector<PinSet> sets_from_json(const std::string& text, const std::string& where);

std::string tier_to_text(const Tier& tier);  ///< JSON, as in the store
Tier tier_from_text(const std::string& text, const std::string& where);
std::string set_to_text(const PinSet& set);
PinSet set_from_text(const std::string& text, const std::string& where);

/// Pins as JSON, as in the model entries of the register. Reading throws Error(input).
std::string pins_to_json(const Pins& pins);
Pins pins_from_json(const std::string& text, const std::string& where);

}  // namespace optrel
