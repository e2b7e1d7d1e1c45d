// SPDX-License-Identifier: GPL-3.0-or-later
//
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_02{
    "ALTER TABLE frames ADD COLUMN other_serials TEXT",
    "ALTER TABLE frames ADD COLUMN filter TEXT",
    "ALTER TABLE frames ADD COLUMN recorded TEXT",
    // Frames that were indexed earlier lack these values; they are read again when their folder is indexed next.
    "UPDATE frames SET modified = 0",
    "ALTER TABLE bodies ADD COLUMN room TEXT",
    "ALTER TABLE bodies ADD COLUMN condition TEXT",
    "ALTER TABLE bodies ADD COLUMN notes TEXT",
    "ALTER TABLE bodies ADD COLUMN in_service INTEGER NOT NULL DEFAULT 1",
    "ALTER TABLE lenses ADD COLUMN contacts INTEGER NOT NULL DEFAULT 1",
    "ALTER TABLE lenses ADD COLUMN focal_min REAL",
    "ALTER TABLE lenses ADD COLUMN focal_max REAL",
    "ALTER TABLE lenses ADD COLUMN aperture_min REAL",
    "ALTER TABLE lenses ADD COLUMN aperture_max REAL",
    "ALTER TABLE lenses ADD COLUMN room TEXT",
    "ALTER TABLE lenses ADD COLUMN notes TEXT",
    "ALTER TABLE lenses ADD COLUMN in_service INTEGER NOT NULL DEFAULT 1",
    "CREATE TABLE models (id TEXT PRIMARY KEY, maker TEXT, model TEXT, width INTEGER, height INTEGER, pitch_um "
    "REAL, filter TEXT, recorded_adds TEXT, notes TEXT)",
    "INSERT OR IGNORE INTO models (id, maker, model, width, height, pitch_um) SELECT CASE WHEN maker = '' OR "
    "substr(model, 1, length(maker)) = maker THEN model"
    " WHEN model = '' THEN maker ELSE maker || ' ' || model END, maker, model, width, height, pitch_um FROM "
    "bodies",
    "CREATE TABLE claims (id TEXT PRIMARY KEY, document TEXT NOT NULL)",
    "CREATE TABLE history (id INTEGER PRIMARY KEY AUTOINCREMENT, time TEXT, author TEXT, kind TEXT, subject "
    "TEXT, "
    "what TEXT, before TEXT, after TEXT)",
    "CREATE INDEX history_of ON history (kind, subject)",
    // Each tier and set is a row, so that an edit of a long draft is a short write.
    "CREATE TABLE draft (kind TEXT, id TEXT, document TEXT NOT NULL, PRIMARY KEY (kind, id))",
    "CREATE TABLE counters (name TEXT PRIMARY KEY, value INTEGER NOT NULL)",
};

}  // namespace optrel::sqlite
