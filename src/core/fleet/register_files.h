// SPDX-License-Identifier: GPL-3.0-or-later
// Import and export of the register as CSV and JSON.
//
// CSV (RFC 4180, UTF-8): one file each for bodies, lenses and models, with column names in the first line. Unknown
// columns are refused by name; missing columns keep the current values. JSON contains all three lists and the claims.
#pragma once

#include "fleet/fleet.h"

namespace optrel {

std::string bodies_to_csv(const std::vector<Body>& bodies);
std::string lenses_to_csv(const std::vector<LensEntry>& lenses);
std::string models_to_csv(const std::vector<ModelEntry>& models);

/// Changes of an import, validated as a whole: one invalid line rejects everything.
struct RegisterImport {
    std::vector<ModelEntry> models;
    std::vector<Body> bodies;
    std::vector<LensEntry> lenses;
    std::vector<Claim> claims;
    int added = 0, changed = 0, same = 0;
    std::vector<std::string> remarks;  ///< warnings about likely typing errors, one sentence each
};

/// The columns decide which list a CSV contains. Entries are matched by id, otherwise by model and serial number.
/// Throws Error(input) with line and column: unknown or missing column, duplicate serial number, value out of range,
/// unterminated quote.
RegisterImport register_from_csv(const std::string& text, const std::string& where, const Register& now);

std::string register_to_json(const Register& entries, const std::vector<Claim>& claims);
/// Throws Error(input) also for a newer format.
RegisterImport register_from_json(const std::string& text, const std::string& where, const Register& now);

std::string to_json(const ModelEntry& model);
std::string to_json(const Body& body);
std::string to_json(const LensEntry& lens);
/// Parses an entry from the history. Throws Error(input) for anything else.
Body body_from_json(const std::string& text);
LensEntry lens_from_json(const std::string& text);

/// A difference between two versions of an entry, for display; a missing value is "nothing".
struct EntryChange {
    std::string property, before, after;
};
/// Empty when one of the documents is no entry.
std::vector<EntryChange> entry_changes(const std::string& before, const std::string& after);

}  // namespace optrel
