// SPDX-License-Identifier: GPL-3.0-or-later
//
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_07{
    "CREATE TABLE intake_folders (folder TEXT PRIMARY KEY, set_name TEXT NOT NULL, set_until TEXT NOT NULL, "
    "only_index INTEGER NOT NULL, raw_only INTEGER NOT NULL, unknown_waits INTEGER NOT NULL, hours TEXT NOT "
    "NULL, watched INTEGER NOT NULL, author TEXT NOT NULL, time TEXT NOT NULL)",
    "CREATE TABLE arrivals (id INTEGER PRIMARY KEY AUTOINCREMENT, time TEXT NOT NULL, way TEXT NOT NULL, frame "
    "TEXT NOT NULL, what TEXT NOT NULL, why TEXT NOT NULL, body TEXT NOT NULL, set_name TEXT NOT NULL, "
    "revision INTEGER NOT NULL, rollout INTEGER NOT NULL)",
    "ALTER TABLE frames ADD COLUMN mark TEXT NOT NULL DEFAULT ''",
    // Fingerprints of contents are new; frames are read again with their folder.
    "UPDATE frames SET modified = 0",
    "CREATE TABLE moves (from_path TEXT PRIMARY KEY, to_path TEXT NOT NULL)",
    "CREATE TABLE selections (name TEXT PRIMARY KEY, document TEXT NOT NULL)",
};

}  // namespace optrel::sqlite
