// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/file_name.h"

#include <fmt/format.h>

#include <algorithm>
#include <string_view>

#include "base/error.h"
#include "base/numbers.h"
#include "base/words.h"

namespace optrel {

namespace {

/// Former name of {delivery}.
constexpr const char* older_token = "recipe";

/// Parts of "{lens|no lens}"; text outside braces has no token.
struct Piece {
    std::string token, text;  ///< `text`: literal text, or the substitute for an empty value
    bool has_text = false;
    int figures = 4;
};

[[noreturn]] void refuse(const std::string& pattern, const std::string& why) {
    throw input_error(fmt::format("The file name '{}' {}.", printable(pattern), why));
}

Piece token_from(const std::string& pattern, const std::string& inside) {
    Piece piece;
    const std::size_t bar = inside.find('|');
    piece.token = inside.substr(0, bar);
    if (bar != std::string::npos) {
        piece.text = inside.substr(bar + 1);
        piece.has_text = true;
    }
    if (const std::size_t colon = piece.token.find(':'); colon != std::string::npos) {
        const auto figures = parse_integer(piece.token.substr(colon + 1));
        piece.token.resize(colon);
        if (piece.token != "number" || !figures || *figures < 1 || *figures > 9)
            refuse(pattern, fmt::format("has '{{{}}}'; only {{number:1}} to {{number:9}} take a figure", inside));
        piece.figures = static_cast<int>(*figures);
    }
    if (piece.token == older_token) piece.token = "delivery";
    const auto& known = name_tokens();
    if (std::find(known.begin(), known.end(), piece.token) == known.end())
        refuse(pattern, fmt::format("has the token {{{}}}, which there is not; there are {}", printable(piece.token),
                                    all_of(known)));
    return piece;
}

std::vector<Piece> pieces_of(const std::string& pattern) {
    std::vector<Piece> out;
    for (std::size_t at = 0; at < pattern.size();) {
        const std::size_t open = pattern.find('{', at);
        if (open > at) {
            const std::string text = pattern.substr(at, open == std::string::npos ? open : open - at);
            if (text.find('}') != std::string::npos) refuse(pattern, "closes a brace that it did not open");
            out.push_back({"", text, true, 0});
        }
        if (open == std::string::npos) break;
        const std::size_t close = pattern.find('}', open);
        if (close == std::string::npos) refuse(pattern, "opens a brace and does not close it");
        out.push_back(token_from(pattern, pattern.substr(open + 1, close - open - 1)));
        at = close + 1;
    }
    return out;
}

/// True when every file system allows a character in a path.
bool welcome(char c) {
    return static_cast<unsigned char>(c) >= 32 && c != 127 &&
           std::string_view("\\:*?\"<>|").find(c) == std::string::npos;
}

/// The value as part of a name.
std::string safe(const std::string& value) {
    std::string out;
    for (const char c : value) {
        out += c == '/' || !welcome(c) ? '-' : c;
    }
    return trimmed(out);
}

/// "2026:03:02 10:15:00" without separators; empty for any other text.
std::string figures_of(const std::string& time) {
    if (time.size() < 19) return "";
    std::string out;
    for (const std::size_t at : {0, 1, 2, 3, 5, 6, 8, 9, 11, 12, 14, 15, 17, 18}) {
        if (time[at] < '0' || time[at] > '9') return "";
        out += time[at];
    }
    return out == "00000000000000" ? "" : out;
}

std::string value_of(const Piece& piece, const NameFacts& f) {
    const Metadata& m = f.metadata;
    const std::string time = figures_of(m.time), &token = piece.token;
    const auto part = [&](std::size_t from, std::size_t count) { return time.empty() ? "" : time.substr(from, count); };
    const auto number = [](double value) { return value > 0 ? fmt::format("{:g}", value) : std::string(); };
    if (token == "name") return f.name;
    if (token == "date") return part(0, 8);
    if (token == "time") return part(8, 6);
    if (token == "year") return part(0, 4);
    if (token == "month") return part(4, 2);
    if (token == "day") return part(6, 2);
    if (token == "body") return f.body.empty() ? m.body_serial : f.body;
    if (token == "model") return m.model;
    if (token == "lens") return m.lens;
    if (token == "iso") return number(m.iso);
    if (token == "focal") return number(m.focal_mm);
    if (token == "aperture") return number(m.aperture);
    if (token == "delivery") return f.delivery;
    return fmt::format("{:0{}}", f.number, piece.figures);
}

/// Checks the parts of a path; refuses patterns that leave the folder or give an empty name.
void check_parts(const std::string& pattern, const std::string& path) {
    if (path.empty() || path.back() == '/') refuse(pattern, "ends without a name");
    if (path.front() == '/') refuse(pattern, "begins with /; it stands below the folder of the export");
    for (std::size_t at = 0; at <= path.size();) {
        const std::size_t end = std::min(path.find('/', at), path.size());
        const std::string part = path.substr(at, end - at);
        if (part == "." || part == ".." || trimmed(part).empty())
            refuse(pattern, fmt::format("has the part '{}', which is no name", part));
        if (part.front() == '.') refuse(pattern, "gives a hidden file; begin it with a letter or a figure");
        at = end + 1;
    }
}

}  // namespace

const std::vector<std::string>& name_tokens() {
    static const std::vector<std::string> tokens{"name",  "date", "time", "year",  "month",    "day",      "body",
                                                 "model", "lens", "iso",  "focal", "aperture", "delivery", "number"};
    return tokens;
}

void check_name_pattern(const std::string& pattern) {
    if (pattern.size() > 500 || !is_utf8(pattern)) refuse(pattern, "is too long or no text; shorten it");
    const std::vector<Piece> pieces = pieces_of(pattern);
    std::string path;
    for (const Piece& p : pieces) {
        if (p.token.empty() && !std::all_of(p.text.begin(), p.text.end(), welcome))
            refuse(pattern, "has a character that not every file system takes; leave out \\ : * ? \" < > |");
        path += p.token.empty() ? p.text : "x";
    }
    check_parts(pattern, path);
    if (std::none_of(pieces.begin(), pieces.end(),
                     [](const Piece& p) { return p.token == "name" || p.token == "number" || p.token == "time"; }))
        refuse(pattern, "would give several frames one name; put {name} or {number} into it");
}

std::string name_from(const std::string& pattern, const NameFacts& facts) {
    std::string path;
    for (const Piece& piece : pieces_of(pattern)) {
        if (piece.token.empty()) {
            path += piece.text;
            continue;
        }
        std::string value = safe(value_of(piece, facts));
        if (value.empty() && !piece.has_text)
            throw input_error(
                fmt::format("The file name '{}' needs {{{}}}, of which {} says nothing; write {{{}|...}} with what "
                            "shall stand there.",
                            pattern, piece.token, facts.name, piece.token));
        path += value.empty() ? safe(piece.text) : value;
    }
    check_parts(pattern, path);
    // Most file systems allow 255 bytes; an extension and a number follow.
    for (const std::string& part : listed(path, '/'))
        if (part.size() > 230)
            throw input_error(fmt::format("The file name '{}' becomes {} characters long for {}; shorten it.", pattern,
                                          part.size(), facts.name));
    return path;
}

}  // namespace optrel
