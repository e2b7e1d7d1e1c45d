// SPDX-License-Identifier: GPL-3.0-or-later
// What workers note, who looks at what, and machines that share a station name.
#include "store/postgres/migrations/steps.h"

namespace optrel::postgres {

const std::vector<const char*> step_03{
    "ALTER TABLE portions ADD COLUMN noted words NOT NULL DEFAULT ''",
    R"(CREATE TABLE presence (window_id words PRIMARY KEY, author words NOT NULL, station words NOT NULL,
               kind words NOT NULL, subject words NOT NULL, seen BIGINT NOT NULL))",
    R"(CREATE TABLE machines (station words NOT NULL, machine words NOT NULL, author words NOT NULL,
               seen BIGINT NOT NULL, PRIMARY KEY (station, machine)))",
};

}  // namespace optrel::postgres
