// SPDX-License-Identifier: GPL-3.0-or-later
// Keys of other studios, and bundles that lie in folders.
#include "store/postgres/migrations/steps.h"

namespace optrel::postgres {

const std::vector<const char*> step_02{
    R"(CREATE TABLE measurers (key words PRIMARY KEY, name words NOT NULL, trusted BOOLEAN NOT NULL,
               withdrawn words NOT NULL, author words NOT NULL, time words NOT NULL))",
    "CREATE TABLE found_bundles (path words PRIMARY KEY, hash words NOT NULL, settled BOOLEAN NOT NULL)",
};

}  // namespace optrel::postgres
