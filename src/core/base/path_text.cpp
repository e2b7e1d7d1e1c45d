// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/path_text.h"

#include "base/utf8.h"
#include "base/words.h"

namespace optrel {
namespace {

/// U+F780 to U+F7FF are EF 9E 80 to EF 9F BF in UTF-8; the last seven bits hold the byte minus 0x80.
constexpr char first = '\xEF';
constexpr std::size_t length = 3;

bool stands_for_byte(std::string_view text) {
    return text.size() >= length && text[0] == first && (text[1] == '\x9E' || text[1] == '\x9F') &&
           (static_cast<unsigned char>(text[2]) & 0xC0) == 0x80;
}

void append_byte(std::string& out, unsigned char byte) {
    out += first;
    out += static_cast<char>(0x9E | ((byte >> 6) & 1));
    out += static_cast<char>(0x80 | (byte & 0x3F));
}

}  // namespace

std::string path_to_text(std::string_view path) {
    if (path.find(first) == std::string_view::npos && is_utf8(path)) return std::string(path);
    std::string out;
    while (!path.empty()) {
        const std::size_t n = utf8_length(path);
        if (n == 0 || stands_for_byte(path))
            append_byte(out, static_cast<unsigned char>(path[0]));
        else
            out += path.substr(0, n);
        // Only the first byte of such a character was consumed; the following bytes begin no character.
        path.remove_prefix(n == 0 || stands_for_byte(path) ? 1 : n);
    }
    return out;
}

std::string path_from_text(std::string_view text) {
    std::string out;
    for (;;) {
        const std::size_t at = text.find(first);
        out += text.substr(0, at);
        if (at == std::string_view::npos) return out;
        text.remove_prefix(at);
        const bool byte = stands_for_byte(text);
        if (byte)
            out += static_cast<char>(0x80 | (static_cast<unsigned char>(text[1]) & 1) << 6 |
                                     (static_cast<unsigned char>(text[2]) & 0x3F));
        else
            out += text[0];
        text.remove_prefix(byte ? length : 1);
    }
}

}  // namespace optrel
