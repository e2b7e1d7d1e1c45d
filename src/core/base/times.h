// SPDX-License-Identifier: GPL-3.0-or-later
// Instants as text.
#pragma once

#include <string>

namespace optrel {

/// Now, in UTC, as ISO 8601: "2026-03-01T09:30:00Z".
std::string utc_now();

}  // namespace optrel
