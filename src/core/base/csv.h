// SPDX-License-Identifier: GPL-3.0-or-later
// Comma-separated values as in RFC 4180.
#pragma once

#include <string>
#include <vector>

namespace optrel {

/// A cell is quoted where it has to be. `line_end`: other than in files where a person pastes the text.
std::string write_csv(const std::vector<std::vector<std::string>>& rows, const char* line_end = "\r\n");
/// Rows of cells; quotation marks, line breaks within them and a byte-order mark are understood. Throws Error(input)
/// for a quotation that does not end, for a zero byte and for more than 200,000 lines.
std::vector<std::vector<std::string>> read_csv(const std::string& text, const std::string& where);

}  // namespace optrel
