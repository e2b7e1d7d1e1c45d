// SPDX-License-Identifier: GPL-3.0-or-later
// Days of the calendar as text, "2026-03-01".
#pragma once

#include <string>

namespace optrel {

/// Whether there is such a day, in this form.
bool is_day(const std::string& text);
/// Whether there is such an instant, as utc_now() writes them: "2026-03-01T18:00:00Z".
bool is_instant(const std::string& text);

}  // namespace optrel
