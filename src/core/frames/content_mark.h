// SPDX-License-Identifier: GPL-3.0-or-later
// A short hash of a file's contents, which identifies a frame after it was moved or renamed.
#pragma once

#include <cstdint>
#include <filesystem>
#include <string>

namespace optrel {

class ContentMark {
public:
    /// No mark.
    ContentMark() = default;
    explicit ContentMark(std::uint64_t value) : value_(value) {}
    /// Parses what text() writes; any other text gives no mark.
    explicit ContentMark(const std::string& text);

    bool taken() const { return value_ != 0; }
    /// Sixteen hexadecimal digits; empty without a mark.
    std::string text() const;
    bool operator==(const ContentMark&) const = default;

private:
    std::uint64_t value_ = 0;
};

/// FNV-1a (64 bits) of the size and of three pieces of 64 KB: the first, the middle and the last one. Frames of one
/// burst differ, because their pictures do. Throws Error(file).
ContentMark content_mark(const std::filesystem::path& path);

}  // namespace optrel
