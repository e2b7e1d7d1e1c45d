// SPDX-License-Identifier: GPL-3.0-or-later
// Creates tiers from descriptions, for window and command line.
#pragma once

#include <string>

#include "baselines/tier.h"
#include "studio/baselines/naming.h"

namespace optrel {

/// Description of a tier, as in options or input fields.
struct TierDescription {
    std::string scope = "studio";  ///< studio, model or body
    std::string target;            ///< name of the model or body
    std::string lens;              ///< name of a lens, or of an individual lens when `lens_is_copy`
    bool lens_is_copy = false;
    std::string iso;           ///< ISO range "1600-6400"; empty: any
    std::string kind = "raw";  ///< raw, rendered or both
    /// Accept unknown names of model, body and lens literally, for things that will be registered later.
    bool not_registered_yet = false;
};

/// A tier with these conditions, without pins and id; its name describes the conditions. Throws Error(usage) for
/// invalid texts, Error(input) for unknown names.
Tier described_tier(const TierDescription& words, const Naming& naming);

/// Parses "1600-6400" into two ISO values. Throws Error(usage).
std::pair<double, double> iso_span_from(const std::string& text);

/// The tier with exactly these conditions; added when there is none. Concurrent additions get the same id, so that
/// their edits can be merged.
Tier& tier_with(Revision& revision, const Tier& conditions);

/// Id derived from the conditions, unique among tiers with other conditions.
std::string tier_id_for(const Revision& revision, const Tier& conditions);

/// Copies pins and sets from one tier to another. Throws Error(input) when either is missing.
void copy_pins(Revision& revision, const std::string& from_id, const std::string& to_id);

}  // namespace optrel
