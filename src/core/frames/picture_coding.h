// SPDX-License-Identifier: GPL-3.0-or-later
// How a developed picture is coded.
#pragma once

#include "frames/print_resolution.h"

namespace optrel {

enum class PictureFormat { tiff, jpeg, png };

struct PictureCoding {
    PictureFormat format = PictureFormat::tiff;
    int bits = 16;            ///< 8 or 16; a JPEG has 8
    bool compressed = false;  ///< TIFF: deflate with differences along the rows; a PNG always is
    int quality = 92;         ///< JPEG: 1 to 100; from 90 on colour has the resolution of light
    PrintResolution resolution = {};
    bool srgb = true;  ///< whether the colours are sRGB: Exif has a word for that space alone
};

}  // namespace optrel
