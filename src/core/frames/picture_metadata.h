// SPDX-License-Identifier: GPL-3.0-or-later
// The metadata of a developed picture, ready for its format. For source files of this folder only.
#pragma once

#include "frames/chosen_metadata.h"
#include "frames/export_metadata.h"
#include "frames/picture_coding.h"
#include "frames/xmp_packet.h"

namespace optrel {

/// What the frame says (times, exposure, rights, description, title, place, serial numbers) and what the Exif standard
/// (version 2.32, tables 17 to 19) asks of a picture of its format: versions, colour space, resolution, way up and
/// size. A TIFF has its size and way up in its own tags. What describes the frame's own file, a maker's private block,
/// and settings of other programs stay behind. To be called with the lock of exiv2_mutex() held.
ChosenMetadata picture_metadata(const ExportFacts& facts, const PictureCoding& coding, const cv::Size& size);

/// An XMP packet in its wrapper, of `chosen` and of `properties` in Optrel's namespace; empty where there are none.
std::string xmp_packet(const ChosenMetadata& chosen, const XmpProperties& properties);

/// Puts `chosen` and what `facts` say of the correction into a JPEG that is complete otherwise. Throws Error(file) that
/// names the frame.
void put_into_jpeg(const std::filesystem::path& picture, const ChosenMetadata& chosen, const ExportFacts& facts);

/// The directories of Exif as a block that begins with the order of bytes, as the chunk eXIf of a PNG holds them.
std::string exif_block(const ChosenMetadata& chosen);

}  // namespace optrel
