// SPDX-License-Identifier: GPL-3.0-or-later
//
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_06{
    "CREATE TABLE colour_files (hash TEXT PRIMARY KEY, name TEXT NOT NULL, camera TEXT NOT NULL, contents TEXT "
    "NOT NULL, origin TEXT NOT NULL, author TEXT NOT NULL, time TEXT NOT NULL, document BLOB NOT NULL)",
    "ALTER TABLE frames ADD COLUMN colours TEXT NOT NULL DEFAULT ''",
    "CREATE TABLE film_rules (pattern TEXT PRIMARY KEY, profile TEXT NOT NULL, focal_mm REAL NOT NULL, "
    "area_width_mm REAL NOT NULL, body TEXT NOT NULL, author TEXT NOT NULL, time TEXT NOT NULL)",
    // Colour profiles are now detected; frames are read again with their folder.
    "UPDATE frames SET modified = 0",
};

}  // namespace optrel::sqlite
