// SPDX-License-Identifier: GPL-3.0-or-later
//
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_09{
    "CREATE TABLE measurers (key TEXT PRIMARY KEY, name TEXT NOT NULL, trusted INTEGER NOT NULL, withdrawn "
    "TEXT NOT NULL, author TEXT NOT NULL, time TEXT NOT NULL)",
    "CREATE TABLE found_bundles (path TEXT PRIMARY KEY, hash TEXT NOT NULL, settled INTEGER NOT NULL)",
};

}  // namespace optrel::sqlite
