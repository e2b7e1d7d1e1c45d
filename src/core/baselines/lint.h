// SPDX-License-Identifier: GPL-3.0-or-later
// Lint: what in a baseline is likely to be a mistake, each with a way to mend it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "baselines/reach.h"

namespace optrel {

enum class LintRule {
    look_pinned,                 ///< a look field is pinned
    pin_without_effect,          ///< a pin equals what it overrides, wherever it applies
    noise_twice,                 ///< noise reduction is pinned where noise is treated elsewhere
    body_names_itself_not,       ///< a body tier for a body whose files carry no serial number
    profile_for_several_lenses,  ///< a fixed lens profile on a body seen with several lenses
    ramp_too_short,              ///< a ramp is used beyond its knots by frames that exist
    mixed_conditions,            ///< a model tier covers bodies of different condition
    no_frame,                    ///< a tier has matched no frame
    body_uncovered,              ///< no tier above studio covers a body
    inert_pin,      ///< a pin that does nothing beside what else its frames get: a radius without an amount
    ramp_of_words,  ///< a ramp of words, which steps at its knots and is not linear
    unknown_model,  ///< a tier for a model that no frame has, and no body of the register
};
std::string to_string(LintRule rule);

struct LintFinding {
    LintRule rule;
    std::string tier_id;  ///< empty: about a body
    std::string tier;     ///< name
    std::optional<Field> field;
    std::string body_id;   ///< of body_uncovered
    std::string sentence;  ///< what, where, why
    std::string remedy;    ///< what mend() does; empty: a person has to decide
    int frames = 0;        ///< concerned
};

/// All findings, tiers in the order of their rank. With no frames at all, rules that ask for frames stay silent.
std::vector<LintFinding> lint(const Revision& revision, const std::vector<FactsGroup>& groups,
                              const std::vector<FleetBody>& fleet);

/// A finding mended.
struct Mended {
    Revision after;
    int frames = 0;                   ///< that resolve otherwise then
    std::vector<std::string> fields;  ///< labels of the fields that do
    std::string refused;              ///< why nothing was changed; empty: `after` is the mended baseline
    bool done() const { return refused.empty(); }
    /// "changes Colour NR in 12 frames", or that it changes no frame.
    std::string sentence() const;
};
/// Mends as the remedy says, but never changes a frame that the finding is not about: where the plain remedy would, a
/// narrower one is taken (noise reduction is pinned to 0 for the bodies whose noise is treated elsewhere), and where
/// there is none, nothing is changed and a person has to decide. A remedy is tried on a copy first: one after which
/// lint finds as much as before is refused, so that remedies never go round in a circle.
Mended mend(const Revision& revision, const LintFinding& finding, const std::vector<FactsGroup>& groups,
            const std::vector<FleetBody>& fleet);

}  // namespace optrel
