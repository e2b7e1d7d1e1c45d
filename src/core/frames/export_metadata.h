// SPDX-License-Identifier: GPL-3.0-or-later
// What an exported picture says of where it came from.
#pragma once

#include <filesystem>

#include "frames/metadata.h"
#include "frames/metadata_choice.h"
#include "frames/xmp_packet.h"

namespace optrel {

/// What is different about an exported picture.
struct ExportFacts {
    Metadata metadata;  ///< of the frame, with the lens that it is known to have
    int width = 0, height = 0;
    double scale = 1;  ///< output pixels for one of the frame's; the pixel pitch in the metadata follows
    MetadataChoice keep = {};
    /// What was corrected and by what; properties of Optrel's namespace. Empty: nothing was.
    XmpProperties correction = {};
};

/// Copies what the frame says (times, exposure, rights, description, title, place, serial numbers; Exif, IPTC and XMP)
/// into a TIFF, JPEG or PNG that is turned as it is held. What describes the frame's own file, a maker's private block,
/// and settings of other programs stay behind. A frame without metadata, or with some that cannot be read, gives only
/// what `facts` say. Throws Error(file) when the picture cannot be written.
void copy_metadata(const std::filesystem::path& frame, const std::filesystem::path& picture, const ExportFacts& facts);

}  // namespace optrel
