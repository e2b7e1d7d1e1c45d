// SPDX-License-Identifier: GPL-3.0-or-later
// Encoding of a developed picture.
#pragma once

#include "frames/print_resolution.h"

namespace optrel {

enum class PictureFormat { tiff, jpeg, png };

struct PictureCoding {
    PictureFormat format = PictureFormat::tiff;
    int bits = 16;            ///< 8 or 16; a JPEG has 8
    bool compressed = false;  ///< TIFF: deflate with horizontal differences; PNG is always compressed
    int quality = 92;         ///< JPEG: 1 to 100; from 90 on without chroma subsampling
    PrintResolution resolution = {};
    bool srgb = true;  ///< true when the colours are sRGB, the only space that Exif can name
};

}  // namespace optrel
