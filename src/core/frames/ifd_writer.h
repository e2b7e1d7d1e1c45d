// SPDX-License-Identifier: GPL-3.0-or-later
// Writes directories of a TIFF file (TIFF 6.0) tag by tag, for files that a general library cannot write: a DNG with
// nested directories, copied metadata, and blocks at given positions.
#pragma once

#include <cstdint>
#include <filesystem>
#include <fstream>
#include <string>
#include <string_view>
#include <vector>

namespace optrel {

/// Types of TIFF 6.0.
enum class TiffType : std::uint16_t {
    byte = 1,
    ascii = 2,
    u16 = 3,
    u32 = 4,
    rational = 5,
    undefined = 7,
    s32 = 9,
    srational = 10,
    float64 = 12
};

/// A directory; entries in any order, values little-endian.
class Ifd {
public:
    void bytes(std::uint16_t tag, TiffType type, std::uint32_t count, std::string value);
    /// A value of more than four bytes that is in the file already.
    void placed(std::uint16_t tag, TiffType type, std::uint32_t count, std::uint32_t place);
    void text(std::uint16_t tag, const std::string& value);  ///< empty texts are left out
    void u8(std::uint16_t tag, const std::vector<int>& values);
    void u16(std::uint16_t tag, const std::vector<int>& values);
    void u32(std::uint16_t tag, const std::vector<std::uint32_t>& values);
    /// As fractions with the denominator 1,000,000, or a smaller one for large values.
    void rationals(std::uint16_t tag, const std::vector<double>& values);
    void signed_rationals(std::uint16_t tag, const std::vector<double>& values);
    void doubles(std::uint16_t tag, const std::vector<double>& values);
    bool has(std::uint16_t tag) const;
    bool empty() const { return entries_.empty(); }

private:
    friend class TiffFile;
    struct Entry {
        std::uint16_t tag;
        TiffType type;
        std::uint32_t count;
        std::string value;
        std::uint32_t place = 0;  ///< not 0: position of a value in the file
    };
    std::vector<Entry> entries_;
};

/// A little-endian TIFF file, written from beginning to end. Throws Error(file) about `wanted` when the disk is full,
/// and beyond the limit of TIFF, 4 GB.
class TiffFile {
public:
    TiffFile(const std::filesystem::path& part, std::filesystem::path wanted);

    /// Position of the next block.
    std::uint32_t next() const { return next_; }
    /// Fills with zeros up to a position after the current end.
    void fill_to(std::uint32_t place);
    /// Returns the position of the block, which is even.
    std::uint32_t block(std::string_view bytes);
    /// Writes a directory with its values; returns its position.
    std::uint32_t directory(Ifd ifd);
    /// Writes the first directory and finishes the file.
    void finish(const Ifd& first);

private:
    void put(std::string_view bytes);

    std::filesystem::path wanted_;
    std::ofstream out_;
    std::uint32_t next_ = 0;
};

}  // namespace optrel
