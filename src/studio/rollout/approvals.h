// SPDX-License-Identifier: GPL-3.0-or-later
// Proposals and approvals: what is proposed, what an approver sees, and what approval does.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "rollout/rehearse.h"
#include "store/store.h"
#include "studio/rollout/samples.h"

namespace optrel {

/// Proposes the draft. Throws Error(input) when it contains no change, or has a conflict.
int propose_draft(Store& store, const std::string& note);
/// Proposes a measured profile as the next version for its lens.
int propose_profile(Store& store, const Profile& profile, const std::string& note);
/// Proposes exactly the rollout that was rehearsed.
int propose_rollout(Store& store, const Rehearsal& rehearsal, const std::string& scope, const std::string& note);
/// Throws Error(input) when the rollout needs an approval that it does not have.
void require_approved(const Store& store, const Rehearsal& rehearsal);

/// Adds a remark on an existing tier, set or profile (by name or id), on a frame (by path), or on a finding (text).
/// Returns its number. Throws Error(input) with similar names, and as StoredProposals::remark() does.
int remark_on(Store& store, Remark remark);

/// Whether the person that opened this store may approve what others propose.
bool may_approve(const Store& store);

/// What an approver sees of a proposal.
struct ProposalView {
    ChangeProposal proposal;
    std::string headline;              ///< "4 changes against revision 7"
    std::vector<std::string> changes;  ///< one line for each change
    std::vector<std::string> lint;     ///< for a revision: new findings of lint
    std::vector<std::string> reach;    ///< affected bodies and frames, one line each
    /// Rehearsal from which sample frames are chosen (samples.h): for a revision all its changes, for a rollout the
    /// frames that change most. Null for a profile.
    std::shared_ptr<const Rehearsal> rehearsal;
    std::optional<Profile> profile;
};
/// Throws Error(input) for an unknown proposal.
ProposalView look_at_proposal(const Store& store, int id, Progress& progress);

/// Sample frames before and after; see look_at_samples().
void look_at_samples(const Store& store, const ProposalView& view, std::size_t most,
                     const std::function<void(Sample)>& sink, Progress& progress);

/// Approves a proposal. Revisions and profiles are published in the name of their author; a rollout may then be
/// started. Returns the result as a sentence. Throws as StoredProposals::judge() does, and when publishing is no longer
/// possible.
std::string approve_proposal(Store& store, int id, const std::string& remark);

}  // namespace optrel
