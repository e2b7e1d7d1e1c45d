// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/approval_desk.h"

#include <utility>

#include "base/station.h"
#include "jobs.h"

namespace optrel {

ApprovalDesk::ApprovalDesk(Store& store, Voice& voice, Jobs& jobs)
    : SessionPart(store, voice, {"proposals"}), jobs_(jobs) {
    voice_.attempt([this] {
        if (StorePeople* people = store_.people()) approver_ = people->mine() >= Role::approves;
    });
    reload();
}

bool ApprovalDesk::may_judge(const ChangeProposal& proposal) const {
    return approver_ && store_.writable() && proposal.state == ProposalState::open && !proposal.mine;
}

void ApprovalDesk::reload() {
    voice_.attempt([this] {
        all_ = store_.proposals().all();
        remarks_ = store_.proposals().remarks();
        std::erase_if(remarks_, [](const Remark& r) { return r.settled; });
        remember();
    });
    emit changed();
}

int ApprovalDesk::propose_draft(const std::string& note) {
    const int id = optrel::propose_draft(store_, note);
    reload();
    return id;
}

void ApprovalDesk::look_at(int id, const std::function<void(const ProposalView&)>& done) {
    auto view = std::make_shared<ProposalView>();
    jobs_.run(
        "Looking at a proposal",
        [=, source = store_.source()](Progress& progress) {
            Store store = source.open(Access::read);
            *view = look_at_proposal(store, id, progress);
        },
        [=, this] {
            done(*view);
            jobs_.give_back(std::exchange(*view, {}));
        });
}

std::string ApprovalDesk::approve(int id, const std::string& remark) {
    std::string out = approve_proposal(store_, id, remark);
    reload();
    return out;
}

void ApprovalDesk::send_back(int id, const std::string& remark, const std::string& field) {
    store_.proposals().judge(id, false, remark, field);
    reload();
}

void ApprovalDesk::remark(const Remark& remark) {
    remark_on(store_, remark);
    reload();
}

void ApprovalDesk::settle_remark(int id) {
    store_.proposals().settle_remark(id);
    reload();
}

}  // namespace optrel
