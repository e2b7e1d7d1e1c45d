// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/spans.h"

#include <fmt/chrono.h>
#include <fmt/format.h>

#include <chrono>
#include <ctime>
#include <regex>

#include "base/error.h"
#include "base/numbers.h"
#include "base/words.h"

namespace optrel {
namespace {

/// A time with the precision in which it was written.
struct Moment {
    int year = 0;
    std::optional<int> month, day, hour, minute, second;
    std::optional<int> zone_minutes;  ///< offset from UTC; nothing: local time of the station
};

[[noreturn]] void no_moment(const std::string& text, const char* why) {
    throw usage_error(fmt::format(
        "'{}' is no time{}; write 2026-03-04, 2026-03-04T14:30:05, with Z or +02:00 for another zone, or as files "
        "record it, 2026:03:04 14:30:05.",
        printable(text.substr(0, 60)), why));
}

Moment read_moment(const std::string& text) {
    static const std::regex form(
        R"(\s*(\d{4})(?:([-:])(\d{2})(?:\2(\d{2})(?:[T ](\d{2}):(\d{2})(?::(\d{2}))?(Z|[+-]\d{2}:?\d{2})?)?)?)?\s*)");
    std::smatch part;
    if (text.size() > 60 || !std::regex_match(text, part, form)) no_moment(text, "");
    const auto number = [&](int i) -> std::optional<int> {
        return part[i].matched ? std::optional(std::stoi(part[i].str())) : std::nullopt;
    };
    Moment m{*number(1), number(3), number(4), number(5), number(6), number(7), {}};
    using namespace std::chrono;
    if (!year_month_day(year(m.year), month(static_cast<unsigned>(m.month.value_or(1))),
                        day(static_cast<unsigned>(m.day.value_or(1))))
             .ok())
        no_moment(text, ": there is no such day");
    if (m.hour.value_or(0) > 23 || m.minute.value_or(0) > 59 || m.second.value_or(0) > 59)
        no_moment(text, ": there is no such hour");
    if (part[8].matched) {
        const std::string zone = part[8].str();
        m.zone_minutes = 0;
        if (zone != "Z") {
            const int hours = std::stoi(zone.substr(1, 2)), minutes = std::stoi(zone.substr(zone.size() - 2));
            if (hours > 14 || minutes > 59) no_moment(text, ": there is no such zone");
            m.zone_minutes = (zone[0] == '-' ? -1 : 1) * (60 * hours + minutes);
        }
    }
    return m;
}

std::tm broken_down(const Moment& m) {
    std::tm t{};
    t.tm_year = m.year - 1900;
    t.tm_mon = m.month.value_or(1) - 1;
    t.tm_mday = m.day.value_or(1);
    t.tm_hour = m.hour.value_or(0);
    t.tm_min = m.minute.value_or(0);
    t.tm_sec = m.second.value_or(0);
    t.tm_isdst = -1;
    return t;
}

/// Seconds since 1970.
std::time_t instant_of(const Moment& m) {
    std::tm t = broken_down(m);
    if (m.zone_minutes) return timegm(&t) - 60 * static_cast<std::time_t>(*m.zone_minutes);
    return std::mktime(&t);
}

/// As written, in local time of the station.
std::string text_of(Moment m, char date, char between) {
    if (m.zone_minutes) {
        const std::time_t at = instant_of(m);
        std::tm local{};
        localtime_r(&at, &local);
        m = {local.tm_year + 1900, local.tm_mon + 1, local.tm_mday, local.tm_hour, local.tm_min, local.tm_sec, {}};
    }
    std::string out = fmt::format("{:04}", m.year);
    if (m.month) out += fmt::format("{}{:02}", date, *m.month);
    if (m.day) out += fmt::format("{}{:02}", date, *m.day);
    if (m.hour) out += fmt::format("{}{:02}:{:02}", between, *m.hour, *m.minute);
    if (m.second) out += fmt::format(":{:02}", *m.second);
    return out;
}

}  // namespace

WholeSpan span_from(const std::string& text, const char* what) {
    const auto refuse = [&](const std::string& why) {
        throw usage_error(fmt::format("'{}' is no span of {}{}; write 800, 100-800, 800- or -400.",
                                      printable(text.substr(0, 60)), what, why));
    };
    const auto number = [&](const std::string& part) -> std::optional<long long> {
        if (trimmed(part).empty()) return std::nullopt;
        const auto n = parse_integer(trimmed(part));
        if (!n || *n < 1 || *n > 100000000) refuse("");
        return *n;
    };
    const std::size_t dash = text.find('-');
    WholeSpan out;
    out.low = number(text.substr(0, dash));
    out.high = dash == std::string::npos ? out.low : number(text.substr(dash + 1));
    if (!out.low && !out.high) refuse("");
    if (out.low && out.high && *out.high < *out.low) refuse(": it ends before it begins");
    return out;
}

std::string moment_from(const std::string& text) { return text_of(read_moment(text), '-', 'T'); }

std::string recorded_moment_from(const std::string& text) { return text_of(read_moment(text), ':', ' '); }

std::string utc_moment_from(const std::string& text) {
    Moment m = read_moment(text);
    if (!m.day) no_moment(text, ": it names no day");
    if (!m.hour) {
        m.hour = 23;
        m.minute = m.second = 59;
    }
    return fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(instant_of(m)));
}

std::optional<double> days_between(const std::string& from, const std::string& to) {
    const auto seconds = [](const std::string& text) -> std::optional<std::time_t> {
        try {
            Moment m = read_moment(text);
            if (!m.day) return std::nullopt;
            m.zone_minutes = m.zone_minutes.value_or(0);
            return instant_of(m);
        } catch (const Error&) {
            return std::nullopt;
        }
    };
    const std::optional<std::time_t> first = seconds(from), last = seconds(to);
    if (!first || !last) return std::nullopt;
    return std::difftime(*last, *first) / (24 * 3600);
}

bool within_moments(const std::string& recorded, const std::string& from, const std::string& to) {
    if (from.empty() && to.empty()) return true;
    static const std::regex form(R"(\d{4}:\d{2}:\d{2} \d{2}:\d{2}:\d{2}.*)");
    if (!std::regex_match(recorded, form)) return false;
    std::string time = recorded.substr(0, 19);
    time[4] = time[7] = '-';
    time[10] = 'T';
    return (from.empty() || time >= from) && (to.empty() || time.substr(0, to.size()) <= to);
}

}  // namespace optrel
