// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/postgres/schema.h"

#include "store/postgres/migrations/steps.h"

namespace optrel::postgres {

// Texts are compared byte by byte (COLLATE "C"), independent of the server's language.
const std::vector<std::vector<const char*>>& migrations() {
    static const std::vector<std::vector<const char*>> all{step_01, step_02, step_03, step_04, step_05, step_06,
                                                           step_07, step_08, step_09, step_10, step_11};
    return all;
}

}  // namespace optrel::postgres
