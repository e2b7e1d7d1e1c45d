// SPDX-License-Identifier: GPL-3.0-or-later
// Where a picture has lost something: raw samples at white or below black, and what development clips.
#pragma once

#include <array>
#include <opencv2/core.hpp>

#include "frames/picture.h"
#include "render/planes.h"

namespace optrel {

/// Bits of a marked pixel.
enum LostMark : unsigned char {
    lost_red = 1,        ///< a red sample is at the white level of the raw
    lost_green = 2,      ///< a green one
    lost_blue = 4,       ///< a blue one
    lost_black = 8,      ///< all samples beneath lie at or below black
    lost_bright = 16,    ///< development clips above, also in the widest colour space
    lost_dark = 32,      ///< development makes it black
    lost_on_screen = 64  ///< the screen cannot show its colour
};

/// For cells of `cell` x `cell` samples: 1 where a sample of red, green, blue is clipped; and the share of the samples
/// that lie at or below black.
struct LostCells {
    Planes clipped;
    cv::Mat1f black;
};
LostCells lost_cells(const RawPicture& raw, int cell);

/// Marks for developed light (linear sRGB): bright where a component of ROMM RGB exceeds 1, dark where none exceeds 0.
cv::Mat1b lost_in_development(const Planes& developed);

/// Shares of the marked pixels of a picture, percent, in the order of the bits; `empty` ones do not count.
std::array<double, 7> lost_percent(const cv::Mat1b& marks, const cv::Mat1b& empty);

}  // namespace optrel
