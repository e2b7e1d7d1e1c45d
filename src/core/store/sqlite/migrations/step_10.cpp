// SPDX-License-Identifier: GPL-3.0-or-later
//
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_10{
    "ALTER TABLE portions ADD COLUMN noted TEXT NOT NULL DEFAULT ''",
    "CREATE TABLE presence (window_id TEXT PRIMARY KEY, author TEXT NOT NULL, station TEXT NOT NULL, kind TEXT "
    "NOT NULL, subject TEXT NOT NULL, seen INTEGER NOT NULL)",
    "CREATE TABLE machines (station TEXT NOT NULL, machine TEXT NOT NULL, author TEXT NOT NULL, seen INTEGER "
    "NOT NULL, PRIMARY KEY (station, machine))",
};

}  // namespace optrel::sqlite
