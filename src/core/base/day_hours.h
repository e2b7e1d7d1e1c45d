// SPDX-License-Identifier: GPL-3.0-or-later
// Hours of the day, as "22:00-06:00": when nobody is disturbed. By the clock of the station.
#pragma once

#include <string>

namespace optrel {

struct DayHours {
    int from = 0, to = 0;  ///< minutes since midnight; the same: the whole day

    bool whole_day() const { return from == to; }
    /// Over midnight where the end lies before the beginning. The end itself is outside.
    bool holds(int minute) const;
    bool hold_now() const;
    bool operator==(const DayHours& o) const = default;
};

/// Throws Error(input) for what is no two times. An empty text is the whole day.
DayHours day_hours_from(const std::string& text);
/// Empty for the whole day.
std::string to_string(const DayHours& hours);

}  // namespace optrel
