// SPDX-License-Identifier: GPL-3.0-or-later
// Spans of whole numbers and moments as people write them: one way everywhere.
//
//   spans      "800", "100-800", "800-", "-400"; both ends included
//   moments    ISO 8601: "2026", "2026-03", "2026-03-04", "2026-03-04T14:30", "2026-03-04 14:30:05", with "Z" or
//              "+02:00" where another zone is meant; or as files record it, "2026:03:04 14:30:05"
#pragma once

#include <optional>
#include <string>

namespace optrel {

struct WholeSpan {
    std::optional<long long> low, high;  ///< nothing: open
};
/// Throws Error(usage) for anything else, numbers below 1 or above 100 million, and a span that ends before it begins.
/// `what` names the numbers: "ISO".
WholeSpan span_from(const std::string& text, const char* what);

/// A moment, or its beginning, as ISO 8601 in the time of this station: "2026-03", "2026-03-04T14:30". Throws
/// Error(usage) for what is none, days that there are not included.
std::string moment_from(const std::string& text);
/// The same as files record it: "2026:03", "2026:03:04 14:30".
std::string recorded_moment_from(const std::string& text);
/// The instant as utc_now() writes it. Of a day alone, its end. Throws as moment_from() does.
std::string utc_moment_from(const std::string& text);

/// Whether a time as a file records it lies in a span of moments, as moment_from() gives them; empty: open. A shorter
/// end holds for all that begins with it. A file that records none lies in no span but the open one.
bool within_moments(const std::string& recorded, const std::string& from, const std::string& to);

}  // namespace optrel
