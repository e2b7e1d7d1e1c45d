// SPDX-License-Identifier: GPL-3.0-or-later
// Proposals and remarks: listing and judging them.
#pragma once

#include <QObject>
#include <functional>
#include <memory>
#include <vector>

#include "session/session_part.h"
#include "studio/rollout/approvals.h"

namespace optrel {

class Jobs;

class ApprovalService : public SessionPart {
    Q_OBJECT
public:
    ApprovalService(Store& store, Messages& messages, Jobs& jobs);

    /// Newest first.
    const std::vector<ChangeProposal>& all() const { return all_; }
    /// Unsettled remarks, newest first.
    const std::vector<Remark>& remarks() const { return remarks_; }
    /// Whether publishing a revision needs approval. Throws as the store does.
    bool revision_needs_another() { return store_.proposals().needed(ProposalKind::revision); }
    /// Whether the user may approve proposals of others.
    bool may_approve() const { return approver_ && store_.writable(); }
    /// Whether the user may judge this proposal.
    bool may_judge(const ChangeProposal& proposal) const;

    /// Proposes the draft; returns the number. Throws as propose_draft() does.
    int propose_draft(const std::string& note);
    /// What an approver sees, loaded on a worker.
    void look_at(int id, const std::function<void(const ProposalView&)>& done);
    /// Returns the result as a sentence. Throws as approve_proposal() does.
    std::string approve(int id, const std::string& remark);
    void send_back(int id, const std::string& remark, const std::string& field);
    /// Throws as remark_on() does.
    void remark(const Remark& remark);
    void settle_remark(int id);
    /// Another station has proposed or judged something.
    void reload();

private:
    Jobs& jobs_;
    bool approver_ = true;
    std::vector<ChangeProposal> all_;
    std::vector<Remark> remarks_;
};

}  // namespace optrel
