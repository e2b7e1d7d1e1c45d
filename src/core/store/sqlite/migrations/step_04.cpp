// SPDX-License-Identifier: GPL-3.0-or-later
//
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_04{
    "ALTER TABLE frames ADD COLUMN corrected TEXT NOT NULL DEFAULT ''",
    "CREATE TABLE recipes (id TEXT PRIMARY KEY, document TEXT NOT NULL)",
    "CREATE TABLE export_orders (id INTEGER PRIMARY KEY, station TEXT NOT NULL, folder TEXT NOT NULL, recipe "
    "TEXT "
    "NOT NULL, document TEXT NOT NULL)",
    "CREATE TABLE exports (in_order INTEGER NOT NULL, position INTEGER NOT NULL, frame TEXT NOT NULL, out TEXT "
    "NOT NULL, state INTEGER NOT NULL, message TEXT NOT NULL, PRIMARY KEY (in_order, position))",
    "CREATE INDEX exports_by_state ON exports (state, in_order, position)",
};

}  // namespace optrel::sqlite
