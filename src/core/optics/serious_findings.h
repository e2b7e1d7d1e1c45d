// SPDX-License-Identifier: GPL-3.0-or-later
// Serious findings of a measurement: a profile that has some is published only when each was accepted by name.
#pragma once

#include <string>
#include <vector>

#include "optics/profile.h"

namespace optrel {

/// A finding that a person accepts.
struct Acceptance {
    std::string finding;  ///< its name
    std::string reason;   ///< may be empty
};

/// Marks findings of a profile as accepted by `author` at `time` (ISO 8601, UTC). Throws Error(input) for a name that
/// none of its findings has, with the nearest; the profile is unchanged then.
void accept_findings(Profile& profile, const std::vector<Acceptance>& accepted, const std::string& author,
                     const std::string& time);

/// Throws Error(input) that names every finding which nobody has accepted.
void require_accepted(const Profile& profile);

/// "tilt, corners@24mm-f4": the accepted ones that concern the mapping; empty: none.
std::string accepted_of_mapping(const Profile& profile);

/// "tilt (No chart frame ...), accepted by iva: the board is fixed", one for each accepted finding.
std::vector<std::string> accepted_in_words(const Profile& profile);

}  // namespace optrel
