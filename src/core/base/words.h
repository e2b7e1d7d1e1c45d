// SPDX-License-Identifier: GPL-3.0-or-later
// Helpers for texts that are shown to users.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace optrel {

/// Whether the bytes are well-formed UTF-8 (RFC 3629), which JSON, XML and the store require.
bool is_utf8(std::string_view text);

/// Whether a text from another source can be shown on one line: UTF-8, no control characters (a terminal would execute
/// them), at most this many bytes.
bool is_plain_line(std::string_view text, std::size_t most = 300);

/// The text with invalid UTF-8 bytes and control characters shown as \xNN, for a terminal.
std::string printable(std::string_view text);

/// The text with ASCII letters in lower case.
std::string lowered(std::string text);

/// The text without white space and control characters at both ends.
std::string trimmed(std::string_view text);

/// Splits "a, b, c" into trimmed, non-empty parts.
std::vector<std::string> listed(std::string_view text, char separator = ',');

/// Joins as "a, b or c".
std::string one_of(const std::vector<std::string>& names);
/// Joins as "a, b and c".
std::string all_of(const std::vector<std::string>& names);

/// A sentence without its full stop, for use inside another sentence.
std::string without_stop(std::string sentence);

/// "1 frame", "3 frames".
std::string counted(long long count, const std::string& one, const std::string& many);

/// With a capital first letter (ASCII).
std::string capitalised(std::string text);

/// Fingerprint of a public key for display: "3f2a 91c0 77de 0b12".
std::string key_words(const std::string& public_key);

/// Names that are similar to `wanted`, best first: names that contain it or are contained in it (ignoring case), then
/// names with the smallest edit distance (Levenshtein 1966) to the whole name or its beginning. At most `most`;
/// entirely different names are left out.
std::vector<std::string> nearest(const std::string& wanted, const std::vector<std::string>& names,
                                 std::size_t most = 3);

/// "; the nearest are 'a', 'b'" for the end of a message; empty when no name is similar.
std::string nearest_clause(const std::string& wanted, const std::vector<std::string>& names);

}  // namespace optrel
