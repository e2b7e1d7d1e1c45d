// SPDX-License-Identifier: GPL-3.0-or-later
// What somebody proposes and a second person has to look at, and remarks on anything.
//
// A studio settles what needs a second person: a revision, a profile, a rollout over more than so many frames. Who
// judges is never who proposed; on a server the server sees to that, by the logins.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace optrel {

class Engine;

enum class ProposalKind { revision, profile, rollout };
std::string to_string(ProposalKind kind);

enum class ProposalState { open, approved, sent_back };
std::string to_string(ProposalState state);

struct ChangeProposal {
    int id = 0;
    std::string time, author, station;
    std::string login;  ///< as the server knows the author; empty in a folder
    bool mine = false;  ///< of who asks
    ProposalKind kind = ProposalKind::revision;
    std::string subject;   ///< in words: the lens of a profile, the frames of a rollout
    std::string document;  ///< what is proposed; of a list empty, since it may be long
    std::string note;
    ProposalState state = ProposalState::open;
    std::string judge, judged;  ///< who looked at it, and when
    std::string remark, field;  ///< why it was sent back, and for which field
};

struct Remark {
    int id = 0;
    std::string time, author, station;
    std::string kind, subject, field;  ///< on what: a tier, a profile, a frame, a finding
    std::string words;
    bool settled = false;
};

class StoredProposals {
public:
    explicit StoredProposals(Engine& engine) : engine_(engine) {}

    /// Whether the studio wants a second person for this; of a rollout over so many frames.
    bool needed(ProposalKind kind, int frames = 0);
    /// Throws Error(input) for a number that is none.
    void need(ProposalKind kind, int more_than_frames);
    void need_no_more(ProposalKind kind);

    /// Newest first, without their documents.
    std::vector<ChangeProposal> all();
    /// With its document. Throws Error(input) for one that is not there.
    ChangeProposal find(int id);
    /// Its number.
    int propose(ProposalKind kind, const std::string& subject, const std::string& document, const std::string& note);
    /// Approves it or, with a remark, sends it back. Throws Error(input) for one's own, one that was judged already,
    /// and one that is sent back without a word.
    void judge(int id, bool approve, const std::string& remark, const std::string& field);
    /// Whether exactly this was approved.
    bool approved(ProposalKind kind, const std::string& document);

    /// Newest first; of one thing, or of all with an empty kind. Throws Error(input) for a kind that nothing is of.
    std::vector<Remark> remarks(const std::string& kind = "", const std::string& subject = "");
    int remark(const Remark& remark);
    /// Throws Error(input) for one that is not there.
    void settle_remark(int id);

private:
    Engine& engine_;
};

/// A revision without what publishing adds to it: by that it is proposed, and found again when it is published.
std::string proposed_form(const std::string& revision_json);

}  // namespace optrel
