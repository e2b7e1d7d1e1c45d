// SPDX-License-Identifier: GPL-3.0-or-later
// Tiers, sets and revisions: what a baseline is made of.
#pragma once

#include <optional>
#include <string>
#include <tuple>
#include <vector>

#include "baselines/pin.h"

namespace optrel {

enum class Scope { studio, model, body };
enum class LensCondition { any, model, copy };

/// A named, reusable, partial list of pins. It may build on other sets, which come first, in their order.
struct PinSet {
    std::string name;  ///< unique in a baseline; tiers and other sets refer to it by this
    std::string note;
    std::vector<std::string> sets;
    Pins pins;
    std::string origin = {};  ///< where it was taken in from, in words; empty: made here
    bool operator==(const PinSet& o) const = default;
};

/// One rule. It applies to a frame if all its conditions hold.
struct Tier {
    std::string id;  ///< stable; unique in a baseline
    std::string name;
    Scope scope = Scope::studio;
    std::string target;  ///< of scope model: the camera name; of scope body: the body's id
    LensCondition lens_condition = LensCondition::any;
    std::string lens;                                   ///< lens text (model) or lens id (copy)
    std::optional<std::pair<double, double>> iso_span;  ///< both ends included
    bool raw = true;
    bool rendered = false;
    std::vector<std::string> sets;  ///< they come first, in their order, then the tier's own pins
    Pins pins;
    std::string origin;  ///< where it was taken in from, in words; empty: made here

    /// Later tiers override earlier ones field by field.
    std::tuple<int, int, int> rank() const {
        return {static_cast<int>(scope), static_cast<int>(lens_condition), iso_span ? 1 : 0};
    }
    bool operator==(const Tier& o) const = default;
};

/// What an entry of a baseline is known by.
inline const std::string& id_of(const Tier& t) { return t.id; }
inline const std::string& id_of(const PinSet& s) { return s.name; }

/// A baseline: draft (number 0) or published revision.
struct Revision {
    int number = 0;
    std::string author, time, note;
    std::vector<Tier> tiers;
    std::vector<PinSet> sets;
    /// What the register adds to the start "as recorded", for each camera name. A published revision keeps its own
    /// copy.
    std::map<std::string, Pins> recorded_adds;
    /// Where frames get the versions of lens profiles that were current at this time (ISO 8601, UTC): when the revision
    /// was published that fixes them. Empty: those that are current when a frame is developed.
    std::string profiles_as_of;
    /// Of a draft that came from a store: the draft's count of edits then, so that a write can tell whether it replaces
    /// what was read.
    int edits = -1;

    const PinSet* set(const std::string& name) const;
    const Tier* tier(const std::string& id) const;
    Tier* tier(const std::string& id) { return const_cast<Tier*>(std::as_const(*this).tier(id)); }
    PinSet* set(const std::string& name) { return const_cast<PinSet*>(std::as_const(*this).set(name)); }
};

/// One thing that a tier or a set says of a field: a pin, and the innermost set that it stands in (null: the tier's
/// own).
struct Saying {
    Field field;
    const Pin* pin;
    const PinSet* set;
};
/// All that sets and own pins say, in order; a later one overrides an earlier one. Sets that are not there, or that
/// come round to themselves, say nothing.
std::vector<Saying> sayings(const Revision& revision, const std::vector<std::string>& sets, const Pins& own);

/// Throws Error(input) when a set builds on itself, directly or by way of others or of its start, or when something
/// names a set that is not there.
void check_sets(const Revision& revision);

/// Throws Error(input) for a name that no set can have: empty, too long, with a colon or a comma.
void check_set_name(const std::string& name);

/// Gives a set another name wherever it is named.
void rename_set(Revision& revision, const std::string& from, const std::string& to);

/// Where a set is used: names of tiers and sets.
std::vector<std::string> users_of_set(const Revision& revision, const std::string& name);

/// Two tiers of equal rank whose conditions can hold together and that pin the same field, in sets or themselves.
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
/// Throws Error(input) in one sentence for anything that is not a baseline of this or an older format.
Revision revision_from_json(const std::string& text, const std::string& where);

/// Sets alone, to be used in another studio.
std::string sets_to_json(const std::vector<PinSet>& sets);
std::vector<PinSet> sets_from_json(const std::string& text, const std::string& where);

std::string tier_to_text(const Tier& tier);  ///< JSON, as in the store
Tier tier_from_text(const std::string& text, const std::string& where);
std::string set_to_text(const PinSet& set);
PinSet set_from_text(const std::string& text, const std::string& where);

/// Pins alone as JSON, as in the register's entries of models. Reading throws Error(input).
std::string pins_to_json(const Pins& pins);
Pins pins_from_json(const std::string& text, const std::string& where);

}  // namespace optrel
