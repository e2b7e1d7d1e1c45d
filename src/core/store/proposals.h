// SPDX-License-Identifier: GPL-3.0-or-later
// Proposals that a second person must approve, and remarks.
//
// A studio configures what needs approval: a revision, a measurement of some kind, or a rollout of more than a number
// of frames. Nobody can approve an own proposal; on a server the server enforces this by the login.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "measurement/kind.h"

namespace optrel {

class Engine;

/// What is proposed: a revision, a rollout, or a measurement of some kind.
class ProposalKind {
public:
    static const ProposalKind revision, rollout;
    static ProposalKind of(const MeasurementKind& kind);
    /// Throws Error(store) for a text that this version does not know.
    static ProposalKind named(const std::string& id);

    /// The kind of the measurement; null for a revision and a rollout.
    const MeasurementKind* measurement() const { return measurement_; }
    const std::string& id() const { return id_; }
    bool operator==(const ProposalKind& other) const { return id_ == other.id_; }

private:
    explicit ProposalKind(std::string id, const MeasurementKind* measurement = nullptr)
        : id_(std::move(id)), measurement_(measurement) {}
    std::string id_;
    const MeasurementKind* measurement_ = nullptr;
};
/// "revision", "profile".
std::string to_string(const ProposalKind& kind);

enum class ProposalState { open, approved, sent_back };
std::string to_string(ProposalState state);

struct ChangeProposal {
    int id = 0;
    std::string time, author, station;
    std::string login;  ///< user name at the server; empty for a store in a folder
    bool mine = false;  ///< proposed by the current user
    ProposalKind kind = ProposalKind::revision;
    std::string subject;   ///< description: the lens of a profile, the frames of a rollout
    std::string document;  ///< the proposed document; empty in lists, since it may be long
    std::string note;
    ProposalState state = ProposalState::open;
    std::string judge, judged;  ///< who judged it, and when
    std::string remark, field;  ///< reason for sending it back, and the field concerned
};

struct Remark {
    int id = 0;
    std::string time, author, station;
    std::string kind, subject, field;  ///< subject: a tier, a profile, a frame, a finding
    std::string words;
    bool settled = false;
};

class StoredProposals {
public:
    explicit StoredProposals(Engine& engine) : engine_(engine) {}

    /// Whether this needs approval; for a rollout, of that many frames.
    bool needed(const ProposalKind& kind, int frames = 0) const;
    /// Throws Error(input) for a negative number.
    void need(const ProposalKind& kind, int more_than_frames);
    void need_no_more(const ProposalKind& kind);

    /// All proposals, newest first, without documents.
    std::vector<ChangeProposal> all() const;
    /// With its document. Throws Error(input) for an unknown id.
    ChangeProposal find(int id) const;
    /// Returns the number of the new proposal.
    int propose(const ProposalKind& kind, const std::string& subject, const std::string& document,
                const std::string& note);
    /// Approves a proposal, or sends it back with a remark. Throws Error(input) for an own or already judged proposal,
    /// and for sending back without a remark.
    void judge(int id, bool approve, const std::string& remark, const std::string& field);
    /// Whether exactly this document was approved.
    bool approved(const ProposalKind& kind, const std::string& document) const;

    /// Newest first. An empty kind means all remarks. Throws Error(input) for an unknown kind.
    std::vector<Remark> remarks(const std::string& kind = "", const std::string& subject = "") const;
    int remark(const Remark& remark);
    /// Throws Error(input) for an unknown id.
    void settle_remark(int id);

private:
    Engine& engine_;
};

/// A revision without the fields that publishing adds. Proposals are stored and compared in this form.
std::string proposed_form(const std::string& revision_json);

}  // namespace optrel
