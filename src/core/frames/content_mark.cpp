// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/content_mark.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <fstream>

#include "base/error.h"
#include "base/files.h"
#include "base/words.h"

namespace optrel {

ContentMark::ContentMark(const std::string& text) {
    constexpr std::size_t digits = 16;
    std::uint64_t value = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value, 16);
    if (text.size() == digits && error == std::errc() && end == text.data() + text.size()) value_ = value;
}

std::string ContentMark::text() const { return taken() ? fmt::format("{:016x}", value_) : std::string(); }

ContentMark content_mark(const std::filesystem::path& path) {
    constexpr std::uintmax_t piece = 64u << 10;
    const std::uintmax_t size = require_regular(path);
    std::string bytes = std::to_string(size) + ' ';
    std::ifstream in(path, std::ios::binary);
    for (const std::uintmax_t from : {std::uintmax_t(0), size / 2, size - std::min(size, piece)}) {
        std::string part(static_cast<std::size_t>(std::min(piece, size - from)), '\0');
        in.seekg(static_cast<std::streamoff>(from));
        in.read(part.data(), static_cast<std::streamsize>(part.size()));
        if (!in && !part.empty())
            throw file_error(fmt::format("{} cannot be read to its end; copy it once more.", printable(path.string())));
        bytes += part;
    }
    return ContentMark(fnv1a(bytes));
}

}  // namespace optrel
