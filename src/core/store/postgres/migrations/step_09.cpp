// SPDX-License-Identifier: GPL-3.0-or-later
// Defect maps of bodies are a kind of measurement.
#include "store/postgres/migrations/steps.h"

namespace optrel::postgres {

const std::vector<const char*> step_09{
    "INSERT INTO measurement_kinds VALUES ('defects', 'works')",
};

}  // namespace optrel::postgres
