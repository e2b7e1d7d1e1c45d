// SPDX-License-Identifier: GPL-3.0-or-later
// Compares two baselines, and merges concurrent edits of a draft.
#pragma once

#include <string>
#include <vector>

#include "baselines/tier.h"

namespace optrel {

/// One difference between two baselines, as text.
struct RevisionChange {
    std::string tier;   ///< name of the tier, or "set NAME", or "as recorded: MODEL"
    std::string field;  ///< label of the field; empty for a change of the tier itself
    std::string before, after;
};
std::vector<RevisionChange> difference(const Revision& before, const Revision& after);

/// Concurrent edits of one draft by two stations.
struct MergedDrafts {
    Revision draft;
    std::vector<std::string> refused;  ///< one sentence for each of my edits that was dropped in favour of theirs
};
/// Applies my changes since `base` to their draft, pin by pin. Where both changed the same pin, theirs is kept and mine
/// is reported.
MergedDrafts merge_drafts(const Revision& base, const Revision& mine, const Revision& theirs);

}  // namespace optrel
