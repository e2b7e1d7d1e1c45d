// SPDX-License-Identifier: GPL-3.0-or-later
// Runs that measure a body.
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_14{
    "CREATE TABLE body_runs (id INTEGER PRIMARY KEY AUTOINCREMENT, kind TEXT NOT NULL, name TEXT NOT NULL, "
    "document TEXT NOT NULL, result TEXT NOT NULL)",
};

}  // namespace optrel::sqlite
