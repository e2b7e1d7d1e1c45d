// SPDX-License-Identifier: GPL-3.0-or-later
// A second person: what is proposed, what there is to be seen of it, and what approving it does.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "rollout/rehearse.h"
#include "store/store.h"
#include "studio/samples.h"

namespace optrel {

/// Proposes the draft. Throws Error(input) when it says nothing new, or has a conflict.
int propose_draft(Store& store, const std::string& note);
/// Proposes a measured profile as the next version for its lens.
int propose_profile(Store& store, const Profile& profile, const std::string& note);
/// Proposes a rollout of exactly what was rehearsed.
int propose_rollout(Store& store, const Rehearsal& rehearsal, const std::string& scope, const std::string& note);
/// Throws Error(input) when the studio wants a second person for this rollout, and it was not approved.
void require_approved(Store& store, const Rehearsal& rehearsal);

/// Remarks on a thing that is there: a tier, a set or a profile by name or id, a frame by its path; a finding in words.
/// Its number. Throws Error(input) with the nearest names, and as StoredProposals::remark() does.
int remark_on(Store& store, Remark remark);

/// What an approver sees of a proposal.
struct ProposalView {
    ChangeProposal proposal;
    std::string headline;              ///< "4 changes against revision 7"
    std::vector<std::string> changes;  ///< one line each
    std::vector<std::string> lint;     ///< of a revision: what lint finds in it and not in what is published
    std::vector<std::string> reach;    ///< whom it would touch, one line each
    /// What its sample frames are chosen from (samples.h): of a revision all that it would change, of a rollout the
    /// frames that change most, as this station rehearses them. Null for a profile, which is its own.
    std::shared_ptr<const Rehearsal> rehearsal;
    std::optional<Profile> profile;
};
/// Throws Error(input) for one that is not there.
ProposalView look_at_proposal(Store& store, int id, Progress& progress);

/// Sample frames before and after, as look_at_samples() gives them.
void look_at_samples(Store& store, const ProposalView& view, std::size_t most, const std::function<void(Sample)>& sink,
                     Progress& progress);

/// Approves, and publishes what was proposed as of its author; a rollout may be rolled out then. Says in a sentence
/// what came of it. Throws as StoredProposals::judge() does, and when it cannot be published any more.
std::string approve_proposal(Store& store, int id, const std::string& remark);

}  // namespace optrel
