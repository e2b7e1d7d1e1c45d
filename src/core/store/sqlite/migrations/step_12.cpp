// SPDX-License-Identifier: GPL-3.0-or-later
//
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_12{
    "DROP INDEX frames_with_numbers",
    "CREATE INDEX frames_with_numbers ON frames (substr(maker, 1, 200), substr(model, 1, 200)) WHERE "
    "(body_serial <> '' OR other_serials <> '')",
    "ALTER TABLE jobs ADD COLUMN ended INTEGER NOT NULL DEFAULT 0",
    "UPDATE jobs SET ended = CAST(strftime('%s', 'now') AS INTEGER) WHERE cancelled OR NOT EXISTS (SELECT 1 "
    "FROM "
    "portions WHERE job = jobs.id AND state = 0)",
};

}  // namespace optrel::sqlite
