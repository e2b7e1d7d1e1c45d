// SPDX-License-Identifier: GPL-3.0-or-later
// The metadata of a frame as directories of a TIFF file. For source files of this folder only.
#pragma once

#include "frames/chosen_metadata.h"
#include "frames/ifd_writer.h"
#include "frames/xmp_packet.h"

namespace optrel {

/// Exif, places, IPTC and XMP, and `properties` in Optrel's namespace. What stands in `main` already stays. The maker's
/// block, which only a raw copy may hold, is put where it stood in the frame's file, as far as that is near the
/// beginning of it: its offsets may count from there. To be called with the lock of exiv2_mutex() held.
void put_metadata(TiffFile& file, Ifd& main, const ChosenMetadata& chosen, const XmpProperties& properties,
                  bool with_maker_note);

}  // namespace optrel
