// SPDX-License-Identifier: GPL-3.0-or-later
// Schema of a store on a PostgreSQL server, as numbered migrations.
#pragma once

#include <vector>

namespace optrel::postgres {

/// Entry i migrates the schema from version i to i + 1. Released entries never change.
const std::vector<std::vector<const char*>>& migrations();

}  // namespace optrel::postgres
