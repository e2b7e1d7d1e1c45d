// Resolving: what a frame gets from a baseline, and why.
//
// Tiers that apply are ordered by (scope: studio < model < body, lens: any < model < copy, ISO: any < span), compared from left
// to right; each later one overrides the earlier ones field by field. What nothing pins comes from the start. The order in which
// tiers were defined never matters: tiers of equal rank are ordered by id, and pinning one field in two of them is a conflict.
#pragma once

#include <array>
#include <string>
#include <unordered_map>
#include <vector>

#include "baselines/tier.h"

namespace optrel {

enum class BodyKnowledge { unknown, assumed, known };

/// What resolving needs to know of a frame.
struct FrameFacts {
    bool raw = true;
    std::string model;  ///< camera name
    std::string body;   ///< body id, when known or assumed
    BodyKnowledge body_knowledge = BodyKnowledge::unknown;
    std::string lens;       ///< lens text in canonical form (canonical_lens_text)
    std::string lens_copy;  ///< lens id, when the file names the copy
    double iso = 0;         ///< 0: not recorded; no tier with an ISO span applies
};

/// A resolved field.
struct ResolvedField {
    Value value;
    const Tier* tier = nullptr;  ///< who pinned it; null: the start
};

struct ResolvedFrame {
    std::array<ResolvedField, field_count> fields;
    const ResolvedField& operator[](Field f) const { return fields[static_cast<int>(f)]; }
};

/// One line of a trace: a tier that applied and what it said.
struct TraceStep {
    const Tier* tier = nullptr;  ///< null: the start
    Value value;
    bool won = false;
    std::string remark;  ///< for instance that the body is only assumed
};

class Resolver {
public:
    /// The tiers are copied. Lens texts of tiers are brought to canonical form by `canonical`.
    Resolver(std::vector<Tier> tiers, std::string (*canonical)(const std::string&));
    Resolver(const Resolver&) = delete;
    Resolver& operator=(const Resolver&) = delete;

    /// Thread-safe. About a microsecond.
    void resolve(const FrameFacts& facts, ResolvedFrame& out) const;

    /// All that was said of a field, the start first, the winner last. Exactly one step has won.
    std::vector<TraceStep> trace(const FrameFacts& facts, Field field) const;

    const std::vector<Tier>& tiers() const { return tiers_; }

private:
    struct Compiled {
        const Tier* tier;
        std::string lens;
        std::vector<std::pair<int, const Pin*>> pins;
    };
    template <class Visit>
    void visit_applying(const FrameFacts& facts, const Visit& visit) const;

    std::vector<Tier> tiers_;
    std::vector<Compiled> studio_;
    std::unordered_map<std::string, std::vector<Compiled>> by_model_, by_body_;
};

/// Neutral values of all fields.
const ResolvedFrame& neutral_start();

}  // namespace optrel
