// SPDX-License-Identifier: GPL-3.0-or-later
// Zip files (ISO/IEC 21320-1), by libzip, as a list of named pieces of bytes.
//
// Nothing is ever unpacked to a path that a zip file names. Still, one with names that lead out of a folder, links,
// encrypted pieces, two pieces of one name, or more than it may hold is refused as a whole: nobody made it in good
// faith.
#pragma once

#include <cstdint>
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

/// Throws Error(input) that names `where` for what is no zip file, is damaged, or is of the kinds named above. Before a
/// piece is unpacked its size is known to be within the limits, and what turns out larger than it says is refused.
std::vector<ZipPart> parts_of_zip(const std::string& bytes, const std::string& where, const ZipLimits& limits = {});

}  // namespace optrel
