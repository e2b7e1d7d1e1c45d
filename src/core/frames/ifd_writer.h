// SPDX-License-Identifier: GPL-3.0-or-later
// Directories of a TIFF file (TIFF 6.0), tag by tag, for files that a general library does not write: a DNG with
// directories below directories, the metadata of another file, and blocks at places of one's choice.
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

/// A directory: what stands in it, in any order. Values are little-endian.
class Ifd {
public:
    void bytes(std::uint16_t tag, TiffType type, std::uint32_t count, std::string value);
    /// A value of more than four bytes that stands in the file already.
    void placed(std::uint16_t tag, TiffType type, std::uint32_t count, std::uint32_t place);
    void text(std::uint16_t tag, const std::string& value);  ///< nothing when it is empty
    void u8(std::uint16_t tag, const std::vector<int>& values);
    void u16(std::uint16_t tag, const std::vector<int>& values);
    void u32(std::uint16_t tag, const std::vector<std::uint32_t>& values);
    /// As fractions of 1,000,000, or of less where the value is too large for that.
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
        std::uint32_t place = 0;  ///< not 0: where the value stands already
    };
    std::vector<Entry> entries_;
};

/// A little-endian TIFF file that is written from front to back. Throws Error(file) that names `wanted` when the disk
/// is full, and for more than the 4 GB that a TIFF can hold.
class TiffFile {
public:
    TiffFile(const std::filesystem::path& part, std::filesystem::path wanted);

    /// Where the next block will stand.
    std::uint32_t next() const { return next_; }
    /// Fills with zeros up to a place that was not reached yet.
    void fill_to(std::uint32_t place);
    /// Returns where the block stands, which is even.
    std::uint32_t block(std::string_view bytes);
    /// A directory with its values; returns where it stands.
    std::uint32_t directory(Ifd ifd);
    /// The file's first directory; ends the file.
    void finish(const Ifd& first);

private:
    void put(std::string_view bytes);

    std::filesystem::path wanted_;
    std::ofstream out_;
    std::uint32_t next_ = 0;
};

}  // namespace optrel
