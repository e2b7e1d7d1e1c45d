// SPDX-License-Identifier: GPL-3.0-or-later
//
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_03{
    "ALTER TABLE frames ADD COLUMN orientation INTEGER NOT NULL DEFAULT 1",
    // More metadata is read from raw files in ISO base media containers; such frames are read again with their
    // folder.
    "UPDATE frames SET modified = 0",
};

}  // namespace optrel::sqlite
