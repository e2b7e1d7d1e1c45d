// SPDX-License-Identifier: GPL-3.0-or-later
// Resolving: what a frame gets from a baseline, and why.
//
// Tiers that apply are ordered by (scope: studio < model < body, lens: any < model < copy, ISO: any < span), compared
// from left to right; each later one overrides the earlier ones field by field. Within a tier, its sets come first in
// their order, then its own pins. What nothing pins comes from the start, a field of its own that is resolved first.
// The order in which tiers were defined never matters: tiers of equal rank are ordered by id, and pinning one field in
// two of them is a conflict.
#pragma once

#include <array>
#include <memory>
#include <string>
#include <unordered_map>
#include <vector>

#include "baselines/recorded.h"
#include "baselines/tier.h"

namespace optrel {

struct ColourProfile;

enum class BodyKnowledge { unknown, assumed, known };

/// What resolving needs to know of a frame.
struct FrameFacts {
    bool raw = true;
    std::string model;  ///< camera name
    std::string body;   ///< body id, when known or assumed
    BodyKnowledge body_knowledge = BodyKnowledge::unknown;
    std::string lens;       ///< lens text in canonical form (canonical_lens_text)
    std::string lens_copy;  ///< lens id, when the copy is known
    double iso = 0;         ///< 0: not recorded; no tier with an ISO span applies
    Recorded recorded;      ///< what the camera wrote of its own settings

    bool operator==(const FrameFacts& o) const {
        return raw == o.raw && model == o.model && body == o.body && body_knowledge == o.body_knowledge &&
               lens == o.lens && lens_copy == o.lens_copy && iso == o.iso && recorded == o.recorded;
    }
};

/// A resolved field.
struct ResolvedField {
    Value value;
    const Tier* tier = nullptr;   ///< who pinned it; null: the start
    const PinSet* set = nullptr;  ///< the set that said it, of the tier or, without a tier, of the start
};

struct ResolvedFrame {
    std::array<ResolvedField, field_count> fields;
    /// The colour file that the field colour_source names, once somebody has fetched it.
    std::shared_ptr<const ColourProfile> colour_file;
    const ResolvedField& operator[](Field f) const { return fields[static_cast<int>(f)]; }
};

/// One line of a trace: who applied and what it said.
struct TraceStep {
    const Tier* tier = nullptr;   ///< null: the start
    const PinSet* set = nullptr;  ///< the set that said it
    std::string source;           ///< "start: neutral", "start: as recorded", "start: set Fronds", the tier's name
    Value value;
    bool won = false;
    std::string remark;  ///< for instance that the body is only assumed
};

/// Whether all conditions of a tier hold. `canonical_lens` is the tier's lens in canonical form (of a copy: its id).
bool tier_applies(const Tier& tier, const std::string& canonical_lens, const FrameFacts& facts);
std::string canonical_lens_of(const Tier& tier);

class Resolver {
public:
    explicit Resolver(Revision revision);
    Resolver(const Resolver&) = delete;
    Resolver& operator=(const Resolver&) = delete;

    /// Thread-safe. About a microsecond.
    void resolve(const FrameFacts& facts, ResolvedFrame& out) const;
    /// One field only.
    ResolvedField resolve(const FrameFacts& facts, Field field) const;

    /// All that was said of a field, the start first, the winner last. Exactly one step has won.
    std::vector<TraceStep> trace(const FrameFacts& facts, Field field) const;

    /// The tiers that apply, lowest first.
    std::vector<const Tier*> applying(const FrameFacts& facts) const;

    const Revision& revision() const { return revision_; }
    /// Ordered by rank.
    const std::vector<Tier>& tiers() const { return revision_.tiers; }

private:
    struct Compiled {
        const Tier* tier;
        std::string lens;
        std::vector<Saying> sayings;
    };
    struct Start {
        Value value;                  ///< as resolved
        bool recorded = false;        ///< builds on what the camera wrote
        std::vector<Saying> sayings;  ///< of named sets, the outermost last
    };
    template <class Visit>
    void visit_applying(const FrameFacts& facts, const Visit& visit) const;
    void add_start(const Value& value, const FrameFacts& facts, int depth, Start& out) const;
    Start start_of(const Value& value, const FrameFacts& facts) const;

    Revision revision_;
    std::vector<Compiled> studio_;
    std::unordered_map<std::string, std::vector<Compiled>> by_model_, by_body_;
};

/// Neutral values of all fields.
const ResolvedFrame& neutral_start();

}  // namespace optrel
