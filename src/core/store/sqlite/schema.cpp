// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/sqlite/schema.h"

namespace optrel::sqlite {

const std::vector<std::vector<const char*>>& migrations() {
    static const std::vector<std::vector<const char*>> all = {
        {
            "CREATE TABLE frames (path TEXT PRIMARY KEY, rendered INTEGER NOT NULL, maker TEXT, model TEXT, "
            "body_serial "
            "TEXT, lens TEXT, lens_serial TEXT,"
            " focal_mm REAL, aperture REAL, iso INTEGER, distance_m REAL, pitch_um REAL, width INTEGER, height "
            "INTEGER, "
            "time TEXT, size INTEGER, modified INTEGER)",
            "CREATE TABLE bodies (id TEXT PRIMARY KEY, maker TEXT, model TEXT, serial TEXT, name TEXT, asset_tag TEXT, "
            "width INTEGER, height INTEGER, pitch_um REAL)",
            "CREATE TABLE lenses (id TEXT PRIMARY KEY, lens TEXT, serial TEXT, name TEXT, asset_tag TEXT)",
            "CREATE TABLE profiles (id TEXT, version INTEGER, document TEXT NOT NULL, PRIMARY KEY (id, version))",
            "CREATE TABLE baselines (number INTEGER PRIMARY KEY, document TEXT NOT NULL)",
            "CREATE TABLE runs (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT, chart TEXT, folder TEXT)",
            "CREATE TABLE run_frames (run INTEGER REFERENCES runs(id) ON DELETE CASCADE, position INTEGER, document "
            "TEXT "
            "NOT NULL, PRIMARY KEY (run, position))",
        },
        {
            "ALTER TABLE frames ADD COLUMN other_serials TEXT",
            "ALTER TABLE frames ADD COLUMN filter TEXT",
            "ALTER TABLE frames ADD COLUMN recorded TEXT",
            // Frames indexed before lack these columns; they are read again with their folder.
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
        },
        {
            "ALTER TABLE frames ADD COLUMN orientation INTEGER NOT NULL DEFAULT 1",
            // More metadata is read from raw files in ISO base media containers; such frames are read again with their
            // folder.
            "UPDATE frames SET modified = 0",
        },
        {
            "ALTER TABLE frames ADD COLUMN corrected TEXT NOT NULL DEFAULT ''",
            "CREATE TABLE recipes (id TEXT PRIMARY KEY, document TEXT NOT NULL)",
            "CREATE TABLE export_orders (id INTEGER PRIMARY KEY, station TEXT NOT NULL, folder TEXT NOT NULL, recipe "
            "TEXT "
            "NOT NULL, document TEXT NOT NULL)",
            "CREATE TABLE exports (in_order INTEGER NOT NULL, position INTEGER NOT NULL, frame TEXT NOT NULL, out TEXT "
            "NOT NULL, state INTEGER NOT NULL, message TEXT NOT NULL, PRIMARY KEY (in_order, position))",
            "CREATE INDEX exports_by_state ON exports (state, in_order, position)",
        },
        {
            "ALTER TABLE frames ADD COLUMN carries TEXT NOT NULL DEFAULT ''",
            // Opcodes are now detected; frames are read again with their folder.
            "UPDATE frames SET modified = 0",
        },
        {
            "CREATE TABLE colour_files (hash TEXT PRIMARY KEY, name TEXT NOT NULL, camera TEXT NOT NULL, contents TEXT "
            "NOT NULL, origin TEXT NOT NULL, author TEXT NOT NULL, time TEXT NOT NULL, document BLOB NOT NULL)",
            "ALTER TABLE frames ADD COLUMN colours TEXT NOT NULL DEFAULT ''",
            "CREATE TABLE film_rules (pattern TEXT PRIMARY KEY, profile TEXT NOT NULL, focal_mm REAL NOT NULL, "
            "area_width_mm REAL NOT NULL, body TEXT NOT NULL, author TEXT NOT NULL, time TEXT NOT NULL)",
            // Colour profiles are now detected; frames are read again with their folder.
            "UPDATE frames SET modified = 0",
        },
        {
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
        },
        {
            // Number of the edit that last changed the row; a row without a document is deleted.
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
        },
        {
            "CREATE TABLE measurers (key TEXT PRIMARY KEY, name TEXT NOT NULL, trusted INTEGER NOT NULL, withdrawn "
            "TEXT NOT NULL, author TEXT NOT NULL, time TEXT NOT NULL)",
            "CREATE TABLE found_bundles (path TEXT PRIMARY KEY, hash TEXT NOT NULL, settled INTEGER NOT NULL)",
        },
        {
            "ALTER TABLE portions ADD COLUMN noted TEXT NOT NULL DEFAULT ''",
            "CREATE TABLE presence (window_id TEXT PRIMARY KEY, author TEXT NOT NULL, station TEXT NOT NULL, kind TEXT "
            "NOT NULL, subject TEXT NOT NULL, seen INTEGER NOT NULL)",
            "CREATE TABLE machines (station TEXT NOT NULL, machine TEXT NOT NULL, author TEXT NOT NULL, seen INTEGER "
            "NOT NULL, PRIMARY KEY (station, machine))",
        },
        {
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
        },
        {
            "DROP INDEX frames_with_numbers",
            "CREATE INDEX frames_with_numbers ON frames (substr(maker, 1, 200), substr(model, 1, 200)) WHERE "
            "(body_serial <> '' OR other_serials <> '')",
            "ALTER TABLE jobs ADD COLUMN ended INTEGER NOT NULL DEFAULT 0",
            "UPDATE jobs SET ended = CAST(strftime('%s', 'now') AS INTEGER) WHERE cancelled OR NOT EXISTS (SELECT 1 "
            "FROM "
            "portions WHERE job = jobs.id AND state = 0)",
        },
    };
    return all;
}

}  // namespace optrel::sqlite
