// SPDX-License-Identifier: GPL-3.0-or-later
// Writes the metadata of a frame as directories of a TIFF file. For source files of this folder only.
#pragma once

#include "frames/chosen_metadata.h"
#include "frames/ifd_writer.h"
#include "frames/xmp_packet.h"

namespace optrel {

/// Adds Exif, places, IPTC and XMP, and `properties` in Optrel's namespace; tags that `main` already has stay. The
/// maker's block, only in raw copies, gets its original position when that is near the beginning of the file, because
/// its offsets may count from there. The caller holds the lock of exiv2_mutex().
void put_metadata(TiffFile& file, Ifd& main, const ChosenMetadata& chosen, const XmpProperties& properties,
                  bool with_maker_note);

}  // namespace optrel
