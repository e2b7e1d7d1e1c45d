// SPDX-License-Identifier: GPL-3.0-or-later
// Zip files (ISO/IEC 21320-1), by libzip, as a list of named pieces of bytes.
//
// Nothing is ever unpacked to a path that a zip file names. Still, one with names that lead out of a folder, links,
// encrypted pieces, two pieces of one name, or more than it may hold is refused as a whole: nobody made it in good
// faith.
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
    std::uint64_t part = 256u << 20, all = 1024u << 20;  ///< bytes when unpacked
};

/// The same parts always give the same bytes. Throws Error(file).
std::string zip_of(const std::vector<ZipPart>& parts);

/// A zip file of which nothing is unpacked until it is asked for.
class ZipFile {
public:
    /// Of bytes in memory, which must stay. Throws Error(input) that names `where` for what is no zip file, is damaged,
    /// is of the kinds named above, or says that it unpacks to more than the limits.
    ZipFile(const std::string& bytes, std::string where, const ZipLimits& limits = {});
    /// Of a file, which is read as pieces of it are asked for. Throws the same, and Error(file).
    explicit ZipFile(const std::filesystem::path& path, const ZipLimits& limits = {});
    ~ZipFile();
    ZipFile(const ZipFile&) = delete;
    ZipFile& operator=(const ZipFile&) = delete;

    bool holds(const std::string& name) const { return pieces_.count(name) != 0; }
    /// The bytes that one of these pieces says it unpacks to.
    std::uint64_t size(const std::string& name) const { return pieces_.at(name).size; }
    /// In their order in the file.
    const std::vector<std::string>& names() const { return names_; }
    /// What all pieces say that they unpack to, in bytes.
    std::uint64_t total() const;
    /// Unpacks one of these pieces. Throws Error(input) where it is damaged, or not as large as it says.
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

/// All pieces, in their order in the file; throws as ZipFile does.
std::vector<ZipPart> parts_of_zip(const std::string& bytes, const std::string& where, const ZipLimits& limits = {});

}  // namespace optrel
