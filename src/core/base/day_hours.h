// SPDX-License-Identifier: GPL-3.0-or-later
// Daily hours such as "22:00-06:00", in the time zone of the station.
#pragma once

#include <string>

namespace optrel {

struct DayHours {
    int from = 0, to = 0;  ///< minutes since midnight; equal values mean the whole day

    bool whole_day() const { return from == to; }
    /// A range whose end is before its beginning continues after midnight. The end itself is excluded.
    bool holds(int minute) const;
    bool hold_now() const;
    bool operator==(const DayHours& o) const = default;
};

/// Throws Error(input) unless the text holds two times. An empty text means the whole day.
DayHours day_hours_from(const std::string& text);
/// Empty for the whole day.
std::string to_string(const DayHours& hours);

}  // namespace optrel
