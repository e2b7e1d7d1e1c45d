// SPDX-License-Identifier: GPL-3.0-or-later
// Identities: everything that files report of bodies and lenses, counted, with who holds it and what is proposed.
#pragma once

#include <map>
#include <set>
#include <string>
#include <vector>

#include "fleet/fleet.h"

namespace optrel {

enum class ProposedAction { none, register_new, claim_for, choose };
struct Proposal {
    ProposedAction action = ProposedAction::none;
    std::string target;                ///< id of the entry to claim for
    std::vector<std::string> reasons;  ///< in plain words
    std::string sentence() const;
};

struct Identity {
    enum class Of { body, lens } of = Of::body;
    std::string camera;  ///< of a body, and of frames that name no lens
    std::string serial;  ///< as reported; empty: none
    std::vector<std::string> other_serials;
    std::string lens_text;
    int frames = 0;
    std::string first, last;           ///< times of its frames
    std::vector<std::string> folders;  ///< where its frames lie, at most a few
    std::filesystem::path example;
    Metadata reported;  ///< of the example
    enum class Status { claimed, assumed, unclaimed } status = Status::unclaimed;
    std::vector<std::string> targets;  ///< ids that its frames are known or assumed to be of
    std::string why;
    Proposal proposal;  ///< of an unclaimed one
};

/// Counts what frames report, one after another.
class IdentityCollector {
public:
    explicit IdentityCollector(const Fleet& fleet) : fleet_(fleet) {}
    void add(const std::filesystem::path& path, const Metadata& metadata, const BodyAnswer& body,
             const LensAnswer& lens);
    /// Unclaimed ones first, most frames first, each with a proposal.
    std::vector<Identity> finish();

private:
    const Fleet& fleet_;
    std::map<std::string, Identity> found_;
    std::set<std::string> bodies_, lenses_;  ///< ids of entries that frames reach already
};

/// The claim that ties an identity as it is reported to an entry.
Claim claim_of(const Identity& identity, const std::string& target);

/// What accepting a proposal puts into the register and the claims: a new entry where one is needed.
struct Accepted {
    std::vector<ModelEntry> models;
    std::vector<Body> bodies;
    std::vector<LensEntry> lenses;
    std::vector<Claim> claims;
};
/// Throws Error(input) when the proposal asks a person to choose.
Accepted accept(const Identity& identity, const Fleet& fleet);

}  // namespace optrel
