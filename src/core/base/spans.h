// SPDX-License-Identifier: GPL-3.0-or-later
// Ranges of whole numbers and of times, as users type them.
//
// numbers   "800", "100-800", "800-", "-400"; both ends included
//
// times     ISO 8601: "2026", "2026-03", "2026-03-04", "2026-03-04T14:30", "2026-03-04 14:30:05", with "Z" or "+02:00"
// for another time zone; or in the form of Exif: "2026:03:04 14:30:05"
#pragma once

#include <optional>
#include <string>

namespace optrel {

struct WholeSpan {
    std::optional<long long> low, high;  ///< nothing: no limit
};
/// Throws Error(usage) for other texts, numbers outside 1 to 100 million, and a range whose end is below its beginning.
/// `what` names the quantity in the message, for example "ISO".
WholeSpan span_from(const std::string& text, const char* what);

/// A time, or the beginning of one, as ISO 8601 in the time zone of this station: "2026-03", "2026-03-04T14:30". Throws
/// Error(usage) for invalid texts and for days that do not exist.
std::string moment_from(const std::string& text);
/// The same in the form of Exif: "2026:03", "2026:03:04 14:30".
std::string recorded_moment_from(const std::string& text);
/// The time in the format of utc_now(); for a day without a time, its end. Throws as moment_from() does.
std::string utc_moment_from(const std::string& text);

/// Days from one time to another, negative when the other one is earlier. Texts as for moment_from(), with at least a
/// day; without a zone they are in UTC. Returns nothing for other texts.
std::optional<double> days_between(const std::string& from, const std::string& to);

/// Whether an Exif time lies between two times from moment_from(); an empty limit is open. A shortened upper limit
/// includes everything that begins with it. A frame without a time matches only the open range.
bool within_moments(const std::string& recorded, const std::string& from, const std::string& to);

}  // namespace optrel
