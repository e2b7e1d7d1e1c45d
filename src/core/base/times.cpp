// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/times.h"

#include <fmt/chrono.h>

#include <chrono>
#include <cstdio>
#include <ctime>

namespace optrel {

std::string utc_now() { return fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(std::time(nullptr))); }

namespace {

std::optional<double> days_since_1970(const std::string& text) {
    int year = 0, month = 0, day = 0, hour = 0, minute = 0, second = 0;
    const int read = std::sscanf(text.c_str(), "%4d-%2d-%2dT%2d:%2d:%2d", &year, &month, &day, &hour, &minute, &second);
    const std::chrono::year_month_day date{std::chrono::year(year), std::chrono::month(static_cast<unsigned>(month)),
                                           std::chrono::day(static_cast<unsigned>(day))};
    if ((read != 3 && read != 6) || !date.ok()) return std::nullopt;
    return std::chrono::sys_days(date).time_since_epoch().count() + (hour + (minute + second / 60.0) / 60.0) / 24;
}

}  // namespace

std::optional<double> days_between(const std::string& from, const std::string& to) {
    const std::optional<double> first = days_since_1970(from), last = days_since_1970(to);
    if (!first || !last) return std::nullopt;
    return *last - *first;
}

}  // namespace optrel
