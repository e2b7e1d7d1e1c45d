// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/lens_text.h"

#include <algorithm>
#include <cctype>

namespace optrel {
namespace {

bool digit(const std::string& text, std::size_t at) {
    return at < text.size() && std::isdigit(static_cast<unsigned char>(text[at]));
}

/// The text without its first word; empty when that word contains a digit or is the only one.
std::string without_first_word(const std::string& text) {
    std::size_t begin = 0;
    while (begin < text.size() && text[begin] == ' ') ++begin;
    const std::size_t end = text.find(' ', begin);
    if (end == std::string::npos) return "";
    for (std::size_t i = begin; i < end; ++i)
        if (digit(text, i)) return "";
    return text.substr(end);
}

}  // namespace

std::string canonical_lens_text(const std::string& text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const unsigned char c = static_cast<unsigned char>(text[i]);
        // "1:2.8" is the aperture written as a ratio.
        if (c == '1' && i + 2 < text.size() && text[i + 1] == ':' && digit(text, i + 2) &&
            !(i > 0 && (digit(text, i - 1) || text[i - 1] == '.'))) {
            ++i;
            continue;
        }
        if (std::isalnum(c) || c == '.') out += static_cast<char>(std::tolower(c));
    }
    const auto erase_unit = [&](const std::string& unit, bool before_digit) {
        for (std::size_t at = 0; (at = out.find(unit, at)) != std::string::npos;) {
            const bool found = before_digit ? digit(out, at + unit.size()) : at > 0 && digit(out, at - 1);
            if (found)
                out.erase(at, unit.size());
            else
                ++at;
        }
    };
    erase_unit("mm", false);
    erase_unit("f", true);
    return out;
}

LensTextMatch compare_lens_texts(const std::string& a, const std::string& b) {
    const std::string x = canonical_lens_text(a), y = canonical_lens_text(b);
    if (x.empty() || y.empty()) return LensTextMatch::different;
    if (x == y) return LensTextMatch::same;
    const auto left_out = [](const std::string& full, const std::string& canonical_short) {
        const std::string rest = canonical_lens_text(without_first_word(full));
        return !rest.empty() && rest == canonical_short &&
               std::any_of(rest.begin(), rest.end(), [](unsigned char c) { return std::isdigit(c); });
    };
    return left_out(a, y) || left_out(b, x) ? LensTextMatch::maker_left_out : LensTextMatch::different;
}

}  // namespace optrel
