// SPDX-License-Identifier: GPL-3.0-or-later
// Serious findings of a measurement. A measurement that has some is published only when each was accepted by name.
#pragma once

#include <string>
#include <vector>

namespace optrel {

/// A serious finding of a measurement. It stays with the measurement, so that everybody who meets the measurement later
/// sees what was found and who published it all the same.
struct SeriousFinding {
    std::string name;         ///< by which it is accepted: "tilt", "corners@24mm-f4", "flats@FL0002.dng"
    std::string text;         ///< one sentence with figure and limit
    bool of_mapping = false;  ///< it concerns the mapping, and not only the falloff
    std::string accepted_by;  ///< empty: nobody has accepted it
    std::string reason;       ///< as whoever accepted it gave it
    std::string time;         ///< of the acceptance: ISO 8601, UTC

    bool accepted() const { return !accepted_by.empty(); }
};

/// A finding that a person accepts.
struct Acceptance {
    std::string finding;  ///< its name
    std::string reason;   ///< may be empty
};

/// Marks findings as accepted by `author` at `time` (ISO 8601, UTC). `name`: name of the measurement, for messages.
/// Throws Error(input) for a name that no finding has, with the nearest one; nothing is changed then.
void accept_findings(std::vector<SeriousFinding>& findings, const std::string& name,
                     const std::vector<Acceptance>& accepted, const std::string& author, const std::string& time);

/// Throws Error(input) that names every finding which nobody has accepted.
void require_accepted(const std::vector<SeriousFinding>& findings, const std::string& name);

/// "tilt, corners@24mm-f4": the accepted ones that concern the mapping; empty: none.
std::string accepted_of_mapping(const std::vector<SeriousFinding>& findings);

/// "tilt (No chart frame ...), accepted by iva: the board is fixed", one for each accepted finding.
std::vector<std::string> accepted_in_words(const std::vector<SeriousFinding>& findings);

}  // namespace optrel
