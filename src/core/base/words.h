// SPDX-License-Identifier: GPL-3.0-or-later
// Small things about texts that are shown to people.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace optrel {

/// Whether the bytes are well-formed UTF-8 (RFC 3629): what JSON, XML and the store can keep.
bool is_utf8(std::string_view text);

/// Whether a text that somebody else wrote can be shown on one line: UTF-8, without control characters, which a
/// terminal would obey, and no longer than this many bytes.
bool is_plain_line(std::string_view text, std::size_t most = 300);

/// The text with every byte that is no UTF-8 shown as \xNN, to name a file that cannot be named otherwise.
std::string printable(std::string_view text);

/// The text in lower case, as far as it is ASCII.
std::string lowered(std::string text);

/// Without white space and control characters at both ends.
std::string trimmed(std::string_view text);

/// The parts of "a, b, c", trimmed, without empty ones.
std::vector<std::string> listed(std::string_view text, char separator = ',');

/// "a, b or c".
std::string one_of(const std::vector<std::string>& names);
/// "a, b and c".
std::string all_of(const std::vector<std::string>& names);

/// A sentence without its full stop, to stand inside another sentence.
std::string without_stop(std::string sentence);

/// "3f2a 91c0 77de 0b12": the beginning of a public key, as people tell keys apart.
std::string key_words(const std::string& public_key);

/// Those of `names` that are likest to `wanted`, best first: without regard to case, those that hold it or are held in
/// it, then those with the fewest insertions, deletions and exchanges (Levenshtein 1966), in the whole name or in its
/// beginning. At most `most`, and none that is altogether different.
std::vector<std::string> nearest(const std::string& wanted, const std::vector<std::string>& names,
                                 std::size_t most = 3);

/// "; the nearest are 'a', 'b'" for the end of a sentence; empty where nothing is near.
std::string nearest_clause(const std::string& wanted, const std::vector<std::string>& names);

}  // namespace optrel
