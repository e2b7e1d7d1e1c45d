// SPDX-License-Identifier: GPL-3.0-or-later
// Serious findings of a measurement. A measurement that has some is published only when each was accepted by name.
#pragma once

#include <string>
#include <vector>

namespace optrel {

/// A serious finding of a measurement. It stays with the measurement, so that everybody who uses the measurement sees
/// what was found and who accepted it.
struct SeriousFinding {
    std::string name;         ///< name for accepting it: "tilt", "corners@24mm-f4", "flats@FL0002.dng"
    std::string text;         ///< one sentence with the figure and its limit
    bool of_mapping = false;  ///< it concerns the mapping, and not only the falloff
    std::string accepted_by;  ///< person; empty: not accepted
    std::string reason;       ///< reason of that person; may be empty
    std::string time;         ///< time of acceptance, ISO 8601, UTC

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

/// Throws Error(input), naming every finding that is not accepted.
void require_accepted(const std::vector<SeriousFinding>& findings, const std::string& name);

/// Names of the accepted findings that concern the mapping: "tilt, corners@24mm-f4". Empty: none.
std::string accepted_of_mapping(const std::vector<SeriousFinding>& findings);

/// One line for each accepted finding, with its text, the person and the reason:
/// "tilt (No chart frame ...), accepted by iva: the board is fixed".
std::vector<std::string> accepted_in_words(const std::vector<SeriousFinding>& findings);

}  // namespace optrel
