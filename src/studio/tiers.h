// SPDX-License-Identifier: GPL-3.0-or-later
// Tiers as people describe them: the one way in which a tier comes about, for window and command line.
#pragma once

#include <string>

#include "baselines/tier.h"
#include "studio/naming.h"

namespace optrel {

/// A tier in words, as options or fields hold them.
struct TierWords {
    std::string scope = "studio";  ///< studio, model or body
    std::string target;            ///< of model and body: whatever names it
    std::string lens;              ///< whatever names a lens, or a copy with `lens_is_copy`
    bool lens_is_copy = false;
    std::string iso;           ///< "1600-6400"; empty: any
    std::string kind = "raw";  ///< raw, rendered or both
    /// Takes model, body and lens as they are spelt, for what is to be registered later.
    bool not_registered_yet = false;
};

/// The conditions of a tier, without pins and without an id; its name says them. Throws Error(usage) for words that are
/// none, Error(input) for names that are not there.
Tier described_tier(const TierWords& words, const Naming& naming);

/// "1600-6400" as two ISO values. Throws Error(usage) with what is wrong: no span, the wrong way round, not positive.
std::pair<double, double> iso_span_from(const std::string& text);

/// The tier of a baseline with exactly these conditions; it is added when there is none. Two stations that add the same
/// tier give it the same id, so that their edits go together.
Tier& tier_with(Revision& revision, const Tier& conditions);

/// An id for a tier, made from its conditions, that no tier of other conditions has.
std::string tier_id_for(const Revision& revision, const Tier& conditions);

/// Copies pins and sets of one tier over those of another. Throws Error(input) when either is not there.
void copy_pins(Revision& revision, const std::string& from_id, const std::string& to_id);

}  // namespace optrel
