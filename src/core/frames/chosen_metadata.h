// SPDX-License-Identifier: GPL-3.0-or-later
// The metadata of a frame that are copied to a new file, as Exiv2 data. For source files of this folder only.
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
    std::string maker_note;           ///< the maker's block; only for raw copies
    std::uint32_t maker_note_at = 0;  ///< its position in the file of the frame; 0: unknown
    bool maker_note_little_endian = false;
};

/// The metadata in the file of the frame that describe the picture, not the file, overridden by `known`: a lens may
/// have been claimed for the frame. Empty when the metadata cannot be read. `scale`: pixels of the copy per pixel of
/// the frame. The caller holds the lock of exiv2_mutex().
ChosenMetadata chosen_metadata(const std::filesystem::path& frame, const Metadata& known, const MetadataChoice& keep,
                               double scale);

/// The metadata that a frame without a file of its own states, for example a simulated one.
ChosenMetadata stated_metadata(const Metadata& known);

}  // namespace optrel
