// Tiers: the rules of a baseline.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "baselines/field.h"

namespace optrel {

/// A pinned value, constant or varying with ISO. A ramp has at least one knot; between knots a number is linear in log2(ISO),
/// beyond the ends constant; a choice steps at its knots.
struct Pin {
    std::vector<std::pair<double, Value>> knots;  ///< ascending ISO; a single knot is a constant

    static Pin constant(Value value) { return {{{100.0, std::move(value)}}}; }
    bool is_ramp() const { return knots.size() > 1; }
    Value at(Field field, double iso) const;
    bool operator==(const Pin& other) const { return knots == other.knots; }
};

enum class Scope { studio, model, body };
enum class LensCondition { any, model, copy };

/// One rule. It applies to a frame if all its conditions hold.
struct Tier {
    std::string id;  ///< stable; unique in a baseline
    std::string name;
    Scope scope = Scope::studio;
    std::string target;  ///< of scope model: the camera name; of scope body: the body's id
    LensCondition lens_condition = LensCondition::any;
    std::string lens;  ///< lens text (model) or lens id (copy)
    std::optional<std::pair<double, double>> iso_span;  ///< both ends included
    bool raw = true;
    bool rendered = false;
    std::map<Field, Pin> pins;

    /// Later tiers override earlier ones field by field.
    std::tuple<int, int, int> rank() const { return {static_cast<int>(scope), static_cast<int>(lens_condition), iso_span ? 1 : 0}; }
};

/// A baseline: draft (number 0) or published revision.
struct Revision {
    int number = 0;
    std::string author, time, note;
    std::vector<Tier> tiers;
};

/// Two tiers of equal rank whose conditions can hold together and that pin the same field.
struct Conflict {
    std::string tier_a, tier_b;  ///< names
    Field field;
    std::string sentence() const;
};
std::vector<Conflict> find_conflicts(const std::vector<Tier>& tiers);

/// One difference between two baselines, in words.
struct RevisionChange {
    std::string tier;   ///< name
    std::string field;  ///< label; empty for a change of the tier itself
    std::string before, after;
};
std::vector<RevisionChange> difference(const Revision& before, const Revision& after);

/// "100: 0, 800: 20" for a ramp, the value with its unit for a constant.
std::string describe(Field field, const Pin& pin);
/// What describe() writes, and shorter: "25", "25 px", "100: 0, 800: 20". Throws Error(input) with one sentence.
Pin pin_from_text(Field field, const std::string& text);
/// "body Brimholt B2/0117, ISO 1600-6400".
std::string describe_conditions(const Tier& tier);

std::string revision_to_json(const Revision& revision);
/// Throws Error(input) in one sentence for anything that is not a baseline of this or an older format.
Revision revision_from_json(const std::string& text, const std::string& where);

}  // namespace optrel
