// SPDX-License-Identifier: GPL-3.0-or-later
// Two baselines side by side: what differs, and how two people's edits go together.
#pragma once

#include <string>
#include <vector>

#include "baselines/tier.h"

namespace optrel {

/// One difference between two baselines, in words.
struct RevisionChange {
    std::string tier;   ///< name of the tier, or "set NAME", or "as recorded: MODEL"
    std::string field;  ///< label; empty for a change of the tier itself
    std::string before, after;
};
std::vector<RevisionChange> difference(const Revision& before, const Revision& after);

/// Edits that were made to one draft by two stations at once.
struct MergedDrafts {
    Revision draft;
    std::vector<std::string> refused;  ///< one sentence for each of my edits that gave way to theirs
};
/// Takes their draft and puts what I changed since `base` into it, pin by pin. Where both changed the same thing,
/// theirs stays and mine is told.
MergedDrafts merge_drafts(const Revision& base, const Revision& mine, const Revision& theirs);

}  // namespace optrel
