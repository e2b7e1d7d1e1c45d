// SPDX-License-Identifier: GPL-3.0-or-later
//
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_08{
    // edit: number of the edit that last changed the row. A row with an empty document counts as deleted.
    "ALTER TABLE draft ADD COLUMN edit INTEGER NOT NULL DEFAULT 0",
    "CREATE INDEX draft_by_edit ON draft (edit)",
    "ALTER TABLE history ADD COLUMN station TEXT NOT NULL DEFAULT ''",
    "ALTER TABLE history ADD COLUMN login TEXT NOT NULL DEFAULT ''",
    "ALTER TABLE history ADD COLUMN seal TEXT NOT NULL DEFAULT ''",
    "CREATE TRIGGER history_stays BEFORE UPDATE ON history BEGIN SELECT RAISE(ABORT, 'the history is only "
    "appended to'); END",
    "CREATE TRIGGER history_is_kept BEFORE DELETE ON history BEGIN SELECT RAISE(ABORT, 'the history is only "
    "appended to'); END",
    "CREATE TABLE jobs (id INTEGER PRIMARY KEY AUTOINCREMENT, kind TEXT NOT NULL, title TEXT NOT NULL, author "
    "TEXT NOT NULL, station TEXT NOT NULL, time TEXT NOT NULL, cancelled INTEGER NOT NULL)",
    "CREATE TABLE portions (job INTEGER NOT NULL, position INTEGER NOT NULL, document TEXT NOT NULL, state "
    "INTEGER NOT NULL, worker TEXT NOT NULL, tries INTEGER NOT NULL, lease INTEGER NOT NULL, result TEXT NOT "
    "NULL, PRIMARY KEY (job, position))",
    "CREATE INDEX portions_waiting ON portions (job, position) WHERE state = 0",
    "CREATE TABLE proposals (id INTEGER PRIMARY KEY AUTOINCREMENT, time TEXT NOT NULL, author TEXT NOT NULL, "
    "station TEXT NOT NULL, login TEXT NOT NULL, kind TEXT NOT NULL, subject TEXT NOT NULL, document TEXT NOT "
    "NULL, note TEXT NOT NULL, state TEXT NOT NULL, judge TEXT NOT NULL, judged TEXT NOT NULL, remark TEXT NOT "
    "NULL, field TEXT NOT NULL)",
    "CREATE TABLE remarks (id INTEGER PRIMARY KEY AUTOINCREMENT, time TEXT NOT NULL, author TEXT NOT NULL, "
    "station TEXT NOT NULL, login TEXT NOT NULL, kind TEXT NOT NULL, subject TEXT NOT NULL, field TEXT NOT "
    "NULL, words TEXT NOT NULL, settled INTEGER NOT NULL)",
    "CREATE TABLE settings (name TEXT PRIMARY KEY, value TEXT NOT NULL)",
    "CREATE TABLE roots (root TEXT NOT NULL, station TEXT NOT NULL, folder TEXT NOT NULL, PRIMARY KEY (root, "
    "station))",
};

}  // namespace optrel::sqlite
