// SPDX-License-Identifier: GPL-3.0-or-later
// Reported identities: serial numbers and lens texts that files contain, with their claims and proposals.
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
    std::string target;                ///< id of the proposed entry
    std::vector<std::string> reasons;  ///< reason, as text
    std::string sentence() const;
};

struct Identity {
    enum class Of { body, lens } of = Of::body;
    std::string camera;  ///< for bodies, and for frames without a lens text
    std::string serial;  ///< as reported; empty: none
    std::vector<std::string> other_serials;
    std::string lens_text;
    int frames = 0;
    std::string first, last;           ///< times of the frames
    std::vector<std::string> folders;  ///< folders of the frames, a few at most
    std::filesystem::path example;
    Metadata reported;  ///< ISO, model and so on of an example frame
    enum class Status { claimed, assumed, unclaimed } status = Status::unclaimed;
    std::vector<std::string> targets;  ///< ids of bodies or lenses that these frames are known or assumed to have
    std::string why;
    Proposal proposal;  ///< proposal for an unclaimed identity
};

/// Collects identities frame by frame.
class IdentityCollector {
public:
    explicit IdentityCollector(const Fleet& fleet) : fleet_(fleet) {}
    void add(const std::filesystem::path& path, const Metadata& metadata, const BodyAnswer& body,
             const LensAnswer& lens);
    /// Unclaimed identities first, then by number of frames; each unclaimed one with a proposal.
    std::vector<Identity> finish();

private:
    const Fleet& fleet_;
    std::map<std::string, Identity> found_;
    std::set<std::string> bodies_, lenses_;  ///< ids of entries that have frames already
};

/// A claim that assigns a reported identity to an entry.
Claim claim_of(const Identity& identity, const std::string& target);

/// Edit of register and claims that accepts a proposal; creates a new entry when necessary.
struct Accepted {
    std::vector<ModelEntry> models;
    std::vector<Body> bodies;
    std::vector<LensEntry> lenses;
    std::vector<Claim> claims;
};
/// Throws Error(input) when the proposal requires a choice by a person.
Accepted accept(const Identity& identity, const Fleet& fleet);

}  // namespace optrel
