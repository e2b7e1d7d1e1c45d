// SPDX-License-Identifier: GPL-3.0-or-later
// Comma-separated values (RFC 4180).
#pragma once

#include <string>
#include <vector>

namespace optrel {

/// Writes cells, quoted where necessary. `line_end` can be changed, for example for text that is pasted elsewhere.
std::string write_csv(const std::vector<std::vector<std::string>>& rows, const char* line_end = "\r\n");
/// Reads rows of cells, with quotes, line breaks inside quotes, and a byte-order mark. Throws Error(input) for an
/// unterminated quote, a zero byte, and more than 200,000 lines.
std::vector<std::vector<std::string>> read_csv(const std::string& text, const std::string& where);

}  // namespace optrel
