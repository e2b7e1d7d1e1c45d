// SPDX-License-Identifier: GPL-3.0-or-later
// A short mark of a file's contents, by which a frame that was moved or renamed is known again.
#pragma once

#include <cstdint>
#include <filesystem>
#include <string>

namespace optrel {

class ContentMark {
public:
    /// None was taken.
    ContentMark() = default;
    explicit ContentMark(std::uint64_t value) : value_(value) {}
    /// As text() writes it; of what is no mark: none was taken.
    explicit ContentMark(const std::string& text);

    bool taken() const { return value_ != 0; }
    /// Sixteen hexadecimal digits; empty where none was taken.
    std::string text() const;
    bool operator==(const ContentMark&) const = default;

private:
    std::uint64_t value_ = 0;
};

/// Of the size and of three pieces of 64 KB: the first, that in the middle and the last (FNV-1a of 64 bits). Two frames
/// of one burst differ in it, since their pictures do. Throws Error(file).
ContentMark content_mark(const std::filesystem::path& path);

}  // namespace optrel
