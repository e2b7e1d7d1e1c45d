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

/// Facts about a frame that resolving needs.
struct FrameFacts {
    bool raw = true;
    std::string model;  ///< camera name
    std::string body;   ///< body id, when the body is known or assumed
    BodyKnowledge body_knowledge = BodyKnowledge::unknown;
    std::string lens;       ///< lens text in canonical form (canonical_lens_text)
    std::string lens_copy;  ///< lens id, when the individual lens is known
    double iso = 0;         ///< 0: not recorded; then tiers with an ISO range do not apply
    Recorded recorded;      ///< the camera's own settings
    /// Current measurements of the body and the lens. Only filled in for traces (studio/frames/measured_facts.h).
    std::vector<MeasurementReference> measured;

    bool operator==(const FrameFacts& o) const {
        return raw == o.raw && model == o.model && body == o.body && body_knowledge == o.body_knowledge &&
               lens == o.lens && lens_copy == o.lens_copy && iso == o.iso && recorded == o.recorded &&
               measured == o.measured;
    }
};

/// A resolved field.
struct ResolvedField {
    Value value;
    const Tier* tier = nullptr;   ///< tier that pinned it; null: the start
    const PinSet* set = nullptr;  ///< set that contains the pin, of the tier or of the start
};

struct ResolvedFrame {
    std::array<ResolvedField, field_count> fields;
    /// Colour file that the field colour_source names, if it was loaded.
    std::shared_ptr<const ColourProfile> colour_file;
    const ResolvedField& operator[](Field f) const { return fields[static_cast<int>(f)]; }
};

/// One step of a trace: a tier, or the start, with the value that it gives.
struct TraceStep {
    const Tier* tier = nullptr;   ///< null: the start
    const PinSet* set = nullptr;  ///< set that contains the value
    std::string source;           ///< "start: neutral", "start: as recorded", "start: set Fronds", the tier's name
    Value value;
    bool won = false;
    std::string remark;  ///< remark, for example that the body is only assumed
};

/// Whether all conditions of a tier hold. `canonical_lens`: the tier's lens in canonical form; for an individual lens,
/// its id.
bool tier_applies(const Tier& tier, const std::string& canonical_lens, const FrameFacts& facts);
std::string canonical_lens_of(const Tier& tier);

class Resolver {
public:
    explicit Resolver(Revision revision);
    Resolver(const Resolver&) = delete;
    Resolver& operator=(const Resolver&) = delete;

    /// Thread-safe. Takes about a microsecond.
    void resolve(const FrameFacts& facts, ResolvedFrame& out) const;
    /// Resolves a single field.
    ResolvedField resolve(const FrameFacts& facts, Field field) const;

    /// All values given for a field, from the start to the winner. Exactly one step is the winner.
    std::vector<TraceStep> trace(const FrameFacts& facts, Field field) const;

    /// The tiers that apply, lowest rank first.
    std::vector<const Tier*> applying(const FrameFacts& facts) const;

    const Revision& revision() const { return revision_; }
    /// Ordered by rank.
    const std::vector<Tier>& tiers() const { return revision_.tiers; }

private:
    struct Compiled {
        const Tier* tier;
        std::string lens;
        std::vector<FieldStatement> sayings;
    };
    struct Start {
        Value value;                          ///< as resolved
        bool recorded = false;                ///< uses the camera's own settings
        std::vector<FieldStatement> sayings;  ///< nested sets, the outermost last
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
