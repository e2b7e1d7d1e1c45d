// SPDX-License-Identifier: GPL-3.0-or-later
// Zip files (ISO/IEC 21320-1) as lists of named pieces, with libzip.
//
// Names inside a zip file are never used as paths. A file with names that lead out of a folder, links, encrypted
// pieces, duplicate names, or too much data is refused as a whole, because no regular program creates it.
#pragma once

#include <cstdint>
#include <filesystem>
#include <map>
#include <memory>
#include <string>
#include <vector>

namespace optrel {

struct ZipPart {
    std::string name, bytes;
};

struct ZipLimits {
    std::size_t parts = 20000;
    std::uint64_t part = 256u << 20, all = 1024u << 20;  ///< unpacked size, bytes
};

/// The same parts give the same bytes. Throws Error(file).
std::string zip_of(const std::vector<ZipPart>& parts);

/// A zip file whose pieces are unpacked on request.
class ZipFile {
public:
    /// From bytes in memory, which must outlive it. Throws Error(input), naming `where`, for a damaged file, for the
    /// cases listed above, and when the declared sizes exceed the limits.
    ZipFile(const std::string& bytes, std::string where, const ZipLimits& limits = {});
    /// From a file, read on request. Throws the same, and Error(file).
    explicit ZipFile(const std::filesystem::path& path, const ZipLimits& limits = {});
    ~ZipFile();
    ZipFile(const ZipFile&) = delete;
    ZipFile& operator=(const ZipFile&) = delete;

    bool holds(const std::string& name) const { return pieces_.count(name) != 0; }
    /// Declared unpacked size of a piece, bytes.
    std::uint64_t size(const std::string& name) const { return pieces_.at(name).size; }
    /// Names, in the order of the file.
    const std::vector<std::string>& names() const { return names_; }
    /// Sum of all declared sizes, bytes.
    std::uint64_t total() const;
    /// Unpacks a piece. Throws Error(input) when it is damaged or its size is not as declared.
    std::string read(const std::string& name) const;

private:
    void look_through(const ZipLimits& limits);

    struct Open;
    std::string where_;
    std::unique_ptr<Open> open_;
    struct Piece {
        std::uint64_t size, place;
    };
    std::map<std::string, Piece> pieces_;
    std::vector<std::string> names_;
};

/// All pieces, in the order of the file. Throws as ZipFile does.
std::vector<ZipPart> parts_of_zip(const std::string& bytes, const std::string& where, const ZipLimits& limits = {});

}  // namespace optrel
