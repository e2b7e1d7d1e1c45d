// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/day_hours.h"

#include <fmt/format.h>

#include <ctime>
#include <regex>

#include "base/error.h"
#include "base/words.h"

namespace optrel {

bool DayHours::holds(int minute) const {
    if (whole_day()) return true;
    return from < to ? minute >= from && minute < to : minute >= from || minute < to;
}

bool DayHours::hold_now() const {
    const std::time_t now = std::time(nullptr);
    std::tm local{};
    localtime_r(&now, &local);
    return holds(60 * local.tm_hour + local.tm_min);
}

DayHours day_hours_from(const std::string& text) {
    if (trimmed(text).empty()) return {};
    static const std::regex shape("\\s*([01]?\\d|2[0-3]):([0-5]\\d)\\s*(?:-|–)\\s*([01]?\\d|2[0-3]):([0-5]\\d)\\s*");
    std::smatch found;
    if (!std::regex_match(text, found, shape))
        throw input_error(
            fmt::format("'{}' are no hours of the day; write them as 22:00-06:00.", printable(text.substr(0, 40))));
    const DayHours out{60 * std::stoi(found[1]) + std::stoi(found[2]), 60 * std::stoi(found[3]) + std::stoi(found[4])};
    if (out.from == out.to)
        throw input_error(fmt::format("'{}' begins when it ends; leave the hours out for the whole day.", text));
    return out;
}

std::string to_string(const DayHours& hours) {
    if (hours.whole_day()) return {};
    return fmt::format("{:02}:{:02}-{:02}:{:02}", hours.from / 60, hours.from % 60, hours.to / 60, hours.to % 60);
}

}  // namespace optrel
