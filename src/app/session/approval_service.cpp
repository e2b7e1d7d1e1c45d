// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/approval_service.h"

#include <utility>

#include "base/station.h"
#include "jobs.h"

namespace optrel {

ApprovalService::ApprovalService(Store& store, Messages& messages, Jobs& jobs)
    : SessionPart(store, messages, {"proposals"}), jobs_(jobs) {
    messages_.attempt([this] { approver_ = optrel::may_approve(store_); });
    reload();
}

bool ApprovalService::may_judge(const ChangeProposal& proposal) const {
    return may_approve() && proposal.state == ProposalState::open && !proposal.mine;
}

void ApprovalService::reload() {
    messages_.attempt([this] {
        all_ = store_.proposals().all();
        remarks_ = store_.proposals().remarks();
        std::erase_if(remarks_, [](const Remark& r) { return r.settled; });
        remember();
    });
    emit changed();
}

int ApprovalService::propose_draft(const std::string& note) {
    const int id = optrel::propose_draft(store_, note);
    reload();
    return id;
}

void ApprovalService::look_at(int id, const std::function<void(const ProposalView&)>& done) {
    auto view = std::make_shared<ProposalView>();
    jobs_.run(
        "Looking at a proposal",
        [=, source = store_.source()](Progress& progress) {
            const auto store = source.open_for_reading();
            *view = look_at_proposal(*store, id, progress);
        },
        [=, this] {
            done(*view);
            jobs_.give_back(std::exchange(*view, {}));
        });
}

std::string ApprovalService::approve(int id, const std::string& remark) {
    std::string out = approve_proposal(store_, id, remark);
    reload();
    return out;
}

void ApprovalService::send_back(int id, const std::string& remark, const std::string& field) {
    store_.proposals().judge(id, false, remark, field);
    reload();
}

void ApprovalService::remark(const Remark& remark) {
    remark_on(store_, remark);
    reload();
}

void ApprovalService::settle_remark(int id) {
    store_.proposals().settle_remark(id);
    reload();
}

}  // namespace optrel
