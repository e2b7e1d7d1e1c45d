// SPDX-License-Identifier: GPL-3.0-or-later
// What waits for a second person, and judging it.
#pragma once

#include <QObject>
#include <functional>
#include <memory>
#include <vector>

#include "session/session_part.h"
#include "studio/approvals.h"

namespace optrel {

class Jobs;

class ApprovalDesk : public SessionPart {
    Q_OBJECT
public:
    ApprovalDesk(Store& store, Voice& voice, Jobs& jobs);

    /// Newest first.
    const std::vector<ChangeProposal>& all() const { return all_; }
    /// Not settled yet, newest first.
    const std::vector<Remark>& remarks() const { return remarks_; }
    /// Whether one person may not publish a revision alone. Throws as the store does.
    bool revision_needs_another() { return store_.proposals().needed(ProposalKind::revision); }
    /// Whether who works here may judge this one.
    bool may_judge(const ChangeProposal& proposal) const;

    /// The draft. Throws as propose_draft() does; its number.
    int propose_draft(const std::string& note);
    /// What there is to be seen of it, off the window's thread.
    void look_at(int id, const std::function<void(const ProposalView&)>& done);
    /// Says what came of it. Throws as approve_proposal() does.
    std::string approve(int id, const std::string& remark);
    void send_back(int id, const std::string& remark, const std::string& field);
    /// Throws as remark_on() does.
    void remark(const Remark& remark);
    void settle_remark(int id);
    /// Another station proposed or judged something.
    void reload();

private:
    Jobs& jobs_;
    bool approver_ = true;
    std::vector<ChangeProposal> all_;
    std::vector<Remark> remarks_;
};

}  // namespace optrel
