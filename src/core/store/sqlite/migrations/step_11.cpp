// SPDX-License-Identifier: GPL-3.0-or-later
//
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_11{
    "ALTER TABLE recipes RENAME TO deliveries",
    "ALTER TABLE export_orders RENAME COLUMN recipe TO delivery",
    "ALTER TABLE frames ADD COLUMN equivalent_mm INTEGER NOT NULL DEFAULT 0",
    // The pitch is now derived when it is not recorded; affected frames are read again with their folder.
    "UPDATE frames SET modified = 0 WHERE pitch_um IS NULL OR pitch_um <= 0",
    "CREATE INDEX frames_with_numbers ON frames (maker, model) WHERE (body_serial <> '' OR other_serials <> "
    "'')",
    // Events of profile versions; earlier publications are in the history.
    "CREATE TABLE profile_events (id INTEGER PRIMARY KEY AUTOINCREMENT, time TEXT NOT NULL, author TEXT NOT "
    "NULL, profile TEXT NOT NULL, version INTEGER NOT NULL, what TEXT NOT NULL, reason TEXT NOT NULL)",
    "INSERT INTO profile_events (time, author, profile, version, what, reason) SELECT time, author, subject, "
    "CAST(substr(what, 17) AS INTEGER), 'publish', '' FROM history WHERE kind = 'profile' AND what LIKE "
    "'publish version %' ORDER BY id",
    "CREATE TRIGGER profile_events_stay BEFORE UPDATE ON profile_events BEGIN SELECT RAISE(ABORT, 'what "
    "happened to profiles is only added to'); END",
    "CREATE TRIGGER profile_events_are_kept BEFORE DELETE ON profile_events BEGIN SELECT RAISE(ABORT, 'what "
    "happened to profiles is only added to'); END",
};

}  // namespace optrel::sqlite
