// SPDX-License-Identifier: GPL-3.0-or-later
// The metadata of exported pictures.
#pragma once

#include <filesystem>
#include <opencv2/core.hpp>

#include "frames/metadata.h"
#include "frames/metadata_choice.h"
#include "frames/xmp_packet.h"

namespace optrel {

/// What an exported picture says of where it came from.
struct ExportFacts {
    std::filesystem::path frame;  ///< its own metadata are read; a file that has none, or none that can be read, gives
                                  ///< only what the others say
    Metadata metadata;            ///< of the frame, with the lens that it is known to have
    double scale = 1;             ///< output pixels for one of the frame's; the pixel pitch in the metadata follows
    MetadataChoice keep = {};
    /// What was corrected and by what; properties of Optrel's namespace. Empty: nothing was.
    XmpProperties correction = {};
};

/// The JSON of the account that a file carries in its XMP (property "account" of Optrel's namespace); empty where it
/// carries none, or cannot be read.
std::string account_in(const std::filesystem::path& file);

}  // namespace optrel
