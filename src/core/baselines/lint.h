// SPDX-License-Identifier: GPL-3.0-or-later
// Lint: likely mistakes in a baseline, with a fix for each where possible.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "baselines/reach.h"

namespace optrel {

enum class LintRule {
    look_pinned,                 ///< a look field is pinned
    pin_without_effect,          ///< a pin equals the value that it overrides, for all frames
    noise_twice,                 ///< noise reduction is pinned although noise is treated elsewhere
    body_names_itself_not,       ///< a body tier for a body whose files have no serial number
    profile_for_several_lenses,  ///< a fixed lens profile for a body that is used with several lenses
    ramp_too_short,              ///< frames exist outside the ISO range of a ramp's knots
    mixed_conditions,            ///< a model tier applies to bodies of different condition
    no_frame,                    ///< no frame has ever matched a tier
    body_uncovered,              ///< a body has no tier except the one of the studio
    inert_pin,      ///< a pin has no effect because of other fields, for example a radius without an amount
    ramp_of_words,  ///< a ramp of a text field, which changes in steps instead of linearly
    unknown_model,  ///< a tier for a camera model without frames and without registered bodies
};
std::string to_string(LintRule rule);

struct LintFinding {
    LintRule rule;
    std::string tier_id;  ///< tier; empty: the finding is about a body
    std::string tier;     ///< name
    std::optional<Field> field;
    std::string body_id;   ///< the body of body_uncovered
    std::string sentence;  ///< what, where, why
    std::string remedy;    ///< effect of mend(); empty: a person has to decide
    int frames = 0;        ///< concerned
};

/// All findings, ordered by the rank of their tiers. Without frames, rules that need frames are skipped.
std::vector<LintFinding> lint(const Revision& revision, const std::vector<FactsGroup>& groups,
                              const std::vector<FleetBody>& fleet);

/// Result of fixing a finding.
struct LintFix {
    Revision after;
    int frames = 0;                   ///< number of frames whose values change
    std::vector<std::string> fields;  ///< labels of the fields that change
    std::string refused;              ///< reason why nothing was changed; empty: `after` is the fixed baseline
    bool done() const { return refused.empty(); }
    /// "changes Colour NR in 12 frames", or that no frame changes.
    std::string sentence() const;
};
/// Fixes a finding without changing frames that it is not about. Where the simple fix would change others, a narrower
/// one is used (for example, noise reduction is set to 0 only for the bodies whose noise is treated elsewhere); where
/// there is none, nothing is changed. A fix is tried on a copy first and refused when lint then has as many findings as
/// before, so that fixes cannot alternate for ever.
LintFix mend(const Revision& revision, const LintFinding& finding, const std::vector<FactsGroup>& groups,
             const std::vector<FleetBody>& fleet);

}  // namespace optrel
