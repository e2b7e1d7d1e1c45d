// SPDX-License-Identifier: GPL-3.0-or-later
// The metadata of exported pictures.
#pragma once

#include <filesystem>
#include <opencv2/core.hpp>

#include "frames/metadata.h"
#include "frames/metadata_choice.h"
#include "frames/xmp_packet.h"

namespace optrel {

/// The origin of an exported picture.
struct ExportFacts {
    std::filesystem::path frame;  ///< its own metadata are read; a file that has none, or none that can be read, gives
                                  ///< only what the others say
    Metadata metadata;            ///< of the frame, with its known lens
    double scale = 1;  ///< pixels of the output per pixel of the frame; the pixel pitch in the metadata is scaled
    MetadataChoice keep = {};
    /// Description of the correction, as properties of Optrel's namespace. Empty: not corrected.
    XmpProperties correction = {};
};

/// The JSON account in the XMP of a file (property "account" of Optrel's namespace); empty when it has none or cannot
/// be read.
std::string account_in(const std::filesystem::path& file);

}  // namespace optrel
