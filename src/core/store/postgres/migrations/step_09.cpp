// SPDX-License-Identifier: GPL-3.0-or-later
// Defect maps and colours of bodies are kinds of measurements.
#include "store/postgres/migrations/steps.h"

namespace optrel::postgres {

const std::vector<const char*> step_09{
    "INSERT INTO measurement_kinds VALUES ('defects', 'works'), ('colours', 'works')",
};

}  // namespace optrel::postgres
