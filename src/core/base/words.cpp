// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/words.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <limits>
#include <numeric>

#include "base/utf8.h"

namespace optrel {
namespace {

std::size_t edit_distance(const std::string& a, const std::string& b) {
    std::vector<std::size_t> row(b.size() + 1);
    std::iota(row.begin(), row.end(), 0);
    for (std::size_t i = 1; i <= a.size(); ++i) {
        std::size_t diagonal = row[0];
        row[0] = i;
        for (std::size_t j = 1; j <= b.size(); ++j) {
            const std::size_t above = row[j];
            row[j] = std::min({above + 1, row[j - 1] + 1, diagonal + (a[i - 1] != b[j - 1])});
            diagonal = above;
        }
    }
    return row.back();
}

/// Distance for a text that is the beginning of a name, with about one error per five characters: the edit distance
/// plus 1, so that complete names rank first; the maximum when it is no such beginning.
std::size_t distance_to_beginning(const std::string& asked, const std::string& name) {
    std::size_t best = std::numeric_limits<std::size_t>::max();
    for (const std::size_t length : {asked.size(), asked.size() + 1}) {
        if (length >= name.size()) continue;
        const std::size_t distance = edit_distance(asked, name.substr(0, length));
        if (distance <= asked.size() / 5) best = std::min(best, distance + 1);
    }
    return best;
}

}  // namespace

bool is_utf8(std::string_view text) {
    while (!text.empty()) {
        const std::size_t n = utf8_length(text);
        if (n == 0) return false;
        text.remove_prefix(n);
    }
    return true;
}

namespace {

/// Whether a text begins with a control character: those of ASCII are one byte, those of Latin-1 two bytes in UTF-8.
bool begins_with_control(std::string_view text) {
    const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(text[i]); };
    return byte(0) < 32 || byte(0) == 127 || (text.size() > 1 && byte(0) == 0xc2 && byte(1) < 0xa0);
}

}  // namespace

bool is_plain_line(std::string_view text, std::size_t most) {
    if (text.size() > most || !is_utf8(text)) return false;
    for (; !text.empty(); text.remove_prefix(1))
        if (begins_with_control(text)) return false;
    return true;
}

std::string printable(std::string_view text) {
    std::string out;
    while (!text.empty()) {
        const std::size_t n = utf8_length(text);
        const std::string_view character = text.substr(0, std::max<std::size_t>(n, 1));
        if (n == 0 || begins_with_control(text))
            for (const char byte : character) out += fmt::format("\\x{:02x}", static_cast<unsigned char>(byte));
        else
            out += character;
        text.remove_prefix(character.size());
    }
    return out;
}

std::string trimmed(std::string_view text) {
    const auto blank = [](unsigned char c) { return c <= ' ' || c == 0x7f; };
    while (!text.empty() && blank(text.front())) text.remove_prefix(1);
    while (!text.empty() && blank(text.back())) text.remove_suffix(1);
    return std::string(text);
}

std::vector<std::string> listed(std::string_view text, char separator) {
    std::vector<std::string> out;
    while (!text.empty()) {
        const std::size_t end = std::min(text.find(separator), text.size());
        if (std::string part = trimmed(text.substr(0, end)); !part.empty()) out.push_back(std::move(part));
        text.remove_prefix(std::min(end + 1, text.size()));
    }
    return out;
}

std::string lowered(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(),
                   [](unsigned char c) { return c < 0x80 ? static_cast<unsigned char>(std::tolower(c)) : c; });
    return text;
}

namespace {

std::string joined(const std::vector<std::string>& names, const char* last) {
    if (names.size() < 2) return fmt::format("{}", fmt::join(names, ""));
    return fmt::format("{} {} {}", fmt::join(names.begin(), names.end() - 1, ", "), last, names.back());
}

}  // namespace

std::string one_of(const std::vector<std::string>& names) { return joined(names, "or"); }
std::string all_of(const std::vector<std::string>& names) { return joined(names, "and"); }

std::string without_stop(std::string sentence) {
    if (!sentence.empty() && sentence.back() == '.') sentence.pop_back();
    return sentence;
}

std::string counted(long long count, const std::string& one, const std::string& many) {
    return std::to_string(count) + " " + (count == 1 ? one : many);
}

std::string capitalised(std::string text) {
    if (!text.empty()) text[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(text[0])));
    return text;
}

std::string key_words(const std::string& public_key) {
    std::string out;
    for (std::size_t i = 0; i < std::min<std::size_t>(public_key.size(), 16); i += 4)
        out += (out.empty() ? "" : " ") + public_key.substr(i, 4);
    return out;
}

std::vector<std::string> nearest(const std::string& wanted, const std::vector<std::string>& names, std::size_t most) {
    const std::string asked = lowered(wanted.substr(0, 200));
    std::vector<std::pair<std::size_t, std::string>> found;
    for (const std::string& name : names) {
        const std::string there = lowered(name.substr(0, 200));
        if (there.empty()) continue;
        const bool held =
            asked.size() >= 2 && (there.find(asked) != std::string::npos || asked.find(there) != std::string::npos);
        const std::size_t distance =
            held ? 0 : std::min(edit_distance(asked, there), distance_to_beginning(asked, there));
        if (distance <= std::max(asked.size(), there.size()) * 2 / 5 + 1) found.emplace_back(distance, name);
    }
    std::sort(found.begin(), found.end());
    found.erase(std::unique(found.begin(), found.end()), found.end());
    std::vector<std::string> out;
    for (std::size_t i = 0; i < found.size() && i < most; ++i) out.push_back(found[i].second);
    return out;
}

std::string nearest_clause(const std::string& wanted, const std::vector<std::string>& names) {
    const std::vector<std::string> found = nearest(wanted, names);
    if (found.empty()) return "";
    return fmt::format("; the nearest {} '{}'", found.size() == 1 ? "is" : "are", fmt::join(found, "', '"));
}

}  // namespace optrel
