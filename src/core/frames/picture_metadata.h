// SPDX-License-Identifier: GPL-3.0-or-later
// The metadata of a developed picture in the form for its format. For source files of this folder only.
#pragma once

#include "frames/chosen_metadata.h"
#include "frames/export_metadata.h"
#include "frames/picture_coding.h"
#include "frames/xmp_packet.h"

namespace optrel {

/// Metadata of the frame (times, exposure, rights, description, title, place, serial numbers), and tags that Exif
/// (version 2.32, tables 17 to 19) requires for the format: versions, colour space, resolution, orientation and size. A
/// TIFF has size and orientation in its own tags. Left out are descriptions of the frame's file, the maker's private
/// block, and settings of other programs. The caller holds the lock of exiv2_mutex().
ChosenMetadata picture_metadata(const ExportFacts& facts, const PictureCoding& coding, const cv::Size& size);

/// A wrapped XMP packet of `chosen` and of `properties` in Optrel's namespace; empty when there are none.
std::string xmp_packet(const ChosenMetadata& chosen, const XmpProperties& properties);

/// Adds `chosen` and the correction in `facts` to an otherwise complete JPEG. Throws Error(file) about the
/// frame.
void put_into_jpeg(const std::filesystem::path& picture, const ChosenMetadata& chosen, const ExportFacts& facts);

/// The Exif directories as a block with byte order mark, the form of the PNG chunk eXIf.
std::string exif_block(const ChosenMetadata& chosen);

}  // namespace optrel
