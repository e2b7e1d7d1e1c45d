// SPDX-License-Identifier: GPL-3.0-or-later
//
#include "store/sqlite/migrations/steps.h"

namespace optrel::sqlite {

const std::vector<const char*> step_05{
    "ALTER TABLE frames ADD COLUMN carries TEXT NOT NULL DEFAULT ''",
    // Opcodes are now detected; frames are read again with their folder.
    "UPDATE frames SET modified = 0",
};

}  // namespace optrel::sqlite
