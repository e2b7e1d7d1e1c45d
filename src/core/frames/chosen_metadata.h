// SPDX-License-Identifier: GPL-3.0-or-later
// What of a frame's metadata goes along with a copy, as Exiv2 holds it. For source files of this folder only.
#pragma once

#include <cstdint>
#include <exiv2/exiv2.hpp>
#include <filesystem>
#include <string>

#include "frames/metadata.h"
#include "frames/metadata_choice.h"

namespace optrel {

struct ChosenMetadata {
    Exiv2::ExifData exif;
    Exiv2::XmpData xmp;
    Exiv2::IptcData iptc;
    std::string maker_note;           ///< the maker's block; only a raw copy may hold it
    std::uint32_t maker_note_at = 0;  ///< where it stood in the frame's file; 0: not known
    bool maker_note_little_endian = false;
};

/// What the frame's file says, as far as it describes the picture and not the file, and over it what is `known`: a lens
/// may have been claimed for it. Nothing of a file whose metadata cannot be read. `scale`: pixels of the copy for one
/// of the frame's. To be called with the lock of exiv2_mutex() held.
ChosenMetadata chosen_metadata(const std::filesystem::path& frame, const Metadata& known, const MetadataChoice& keep,
                               double scale);

}  // namespace optrel
