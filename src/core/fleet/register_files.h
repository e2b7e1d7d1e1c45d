// SPDX-License-Identifier: GPL-3.0-or-later
// The register as CSV and JSON, out and in.
//
// CSV (RFC 4180, UTF-8): one file for bodies, one for lenses, one for models, the columns named in the first line;
// unknown columns are refused by name, columns that are left out keep what the register says. JSON holds all three and
// the claims.
#pragma once

#include "fleet/fleet.h"

namespace optrel {

std::string bodies_to_csv(const std::vector<Body>& bodies);
std::string lenses_to_csv(const std::vector<LensEntry>& lenses);
std::string models_to_csv(const std::vector<ModelEntry>& models);

/// What a file would change, checked as a whole: nothing is taken over when one line is wrong.
struct RegisterImport {
    std::vector<ModelEntry> models;
    std::vector<Body> bodies;
    std::vector<LensEntry> lenses;
    std::vector<Claim> claims;
    int added = 0, changed = 0, same = 0;
    std::vector<std::string> remarks;  ///< what a person may have mistyped: one sentence each
};

/// Which of the three a CSV holds is told by its columns. Entries are known again by id, else by model and serial
/// number. Throws Error(input) with the line and the column of what is wrong: an unknown or missing column, a duplicate
/// serial number, a value out of range, a quotation that does not end.
RegisterImport register_from_csv(const std::string& text, const std::string& where, const Register& now);

std::string register_to_json(const Register& entries, const std::vector<Claim>& claims);
/// Throws Error(input) also for a document of a newer version.
RegisterImport register_from_json(const std::string& text, const std::string& where, const Register& now);

std::string to_json(const ModelEntry& model);
std::string to_json(const Body& body);
std::string to_json(const LensEntry& lens);
/// Back, as the history has them. Throws Error(input) for anything else.
Body body_from_json(const std::string& text);
LensEntry lens_from_json(const std::string& text);

/// One property in which two documents of an entry differ, as people read it; what is not there is "nothing".
struct EntryChange {
    std::string property, before, after;
};
/// Empty where either is no document of an entry.
std::vector<EntryChange> entry_changes(const std::string& before, const std::string& after);

}  // namespace optrel
