// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/csv.h"

#include <fmt/format.h>

#include "base/error.h"

namespace optrel {

std::string write_csv(const std::vector<std::vector<std::string>>& rows, const char* line_end) {
    std::string out;
    for (const auto& row : rows) {
        for (std::size_t c = 0; c < row.size(); ++c) {
            if (c) out += ',';
            if (row[c].find_first_of(",\"\r\n") == std::string::npos) {
                out += row[c];
                continue;
            }
            out += '"';
            for (const char ch : row[c]) out += ch == '"' ? "\"\"" : std::string(1, ch);
            out += '"';
        }
        out += line_end;
    }
    return out;
}

std::vector<std::vector<std::string>> read_csv(const std::string& text, const std::string& where) {
    std::vector<std::vector<std::string>> rows;
    std::vector<std::string> row;
    std::string cell;
    bool quoted = false, any = false;
    std::size_t opened = 0, line = 1;
    const auto end_row = [&] {
        row.push_back(std::move(cell));
        cell.clear();
        rows.push_back(std::move(row));
        row.clear();
        any = false;
        if (rows.size() > 200000) throw input_error(fmt::format("{} has more than 200,000 lines; split it.", where));
    };
    for (std::size_t i = text.rfind("\xef\xbb\xbf", 0) == 0 ? 3 : 0; i < text.size(); ++i) {
        const char c = text[i];
        if (c == '\0')
            throw input_error(fmt::format("{}, line {}, holds a zero byte: it is no text file; export it again as CSV.",
                                          where, line));
        if (c == '\n') ++line;
        if (quoted) {
            if (c != '"')
                cell += c;
            else if (i + 1 < text.size() && text[i + 1] == '"')
                cell += text[++i];
            else
                quoted = false;
        } else if (c == '"' && cell.empty()) {
            quoted = true;
            opened = line;
            any = true;
        } else if (c == ',') {
            row.push_back(std::move(cell));
            cell.clear();
            any = true;
        } else if (c == '\n') {
            end_row();
        } else if (c != '\r') {
            cell += c;
            any = true;
        }
    }
    if (quoted)
        throw input_error(
            fmt::format("{}: the quotation that begins in line {} does not end; mend that line.", where, opened));
    if (any) end_row();
    return rows;
}

}  // namespace optrel
