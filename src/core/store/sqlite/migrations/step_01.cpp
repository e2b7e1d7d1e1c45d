// SPDX-License-Identifier: GPL-3.0-or-later
//
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_01{
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
};

}  // namespace optrel::sqlite
