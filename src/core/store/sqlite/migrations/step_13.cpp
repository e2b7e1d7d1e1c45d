// SPDX-License-Identifier: GPL-3.0-or-later
// Measurements of any kind in place of profiles.
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_13{
    "ALTER TABLE profiles RENAME TO measurements",
    "ALTER TABLE measurements ADD COLUMN kind TEXT NOT NULL DEFAULT 'profile'",
    "ALTER TABLE profile_events RENAME TO measurement_events",
    "ALTER TABLE measurement_events RENAME COLUMN profile TO measurement",
};

}  // namespace optrel::sqlite
