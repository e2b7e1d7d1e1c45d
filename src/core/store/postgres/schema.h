// SPDX-License-Identifier: GPL-3.0-or-later
// The schema of a store on a PostgreSQL server, by numbered steps.
#pragma once

#include <vector>

namespace optrel::postgres {

/// Each entry brings the schema from its index to the next number. Entries are never changed once released.
const std::vector<std::vector<const char*>>& migrations();

}  // namespace optrel::postgres
