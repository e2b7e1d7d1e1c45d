// SPDX-License-Identifier: GPL-3.0-or-later
// Texts and times of the core as the window shows them.
#pragma once

#include <QString>
#include <string>

namespace optrel {

/// Bytes that are no text have characters of their own (base/path_text.h); what a sentence says in brackets of options
/// of the command line is left out, since the window has none.
QString q(const std::string& s);

/// Times that the store keeps in UTC ("2026-12-02T10:31:05Z"), for people at this place: the day as "2026-12-02", day
/// and time as "2026-12-02 11:31", or in full as "2026-12-02T11:31:05+01:00 (local time)". A text that is no time
/// stays.
QString local_day(const std::string& utc);
QString local_time(const std::string& utc);
QString full_local_time(const std::string& utc);

}  // namespace optrel
