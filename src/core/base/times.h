// SPDX-License-Identifier: GPL-3.0-or-later
// Times as text.
#pragma once

#include <string>

namespace optrel {

/// Current time in UTC, ISO 8601: "2026-03-01T09:30:00Z".
std::string utc_now();

}  // namespace optrel
