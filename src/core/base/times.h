// SPDX-License-Identifier: GPL-3.0-or-later
// Times as text.
#pragma once

#include <optional>
#include <string>

namespace optrel {

/// Current time in UTC, ISO 8601: "2026-03-01T09:30:00Z".
std::string utc_now();

/// Days from one time to a later one, both as utc_now() writes them, also without the time of the day; negative for an
/// earlier one. Empty when one of the texts is no such time.
std::optional<double> days_between(const std::string& from, const std::string& to);

}  // namespace optrel
