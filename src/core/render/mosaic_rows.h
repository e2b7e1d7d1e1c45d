// SPDX-License-Identifier: GPL-3.0-or-later
// Processes rows of a Bayer mosaic, several samples at a time (Highway).
#pragma once

#include <cstddef>
#include <cstdint>

namespace optrel {

/// Columns between two nodes of a gain, which is interpolated linearly. With 8 px the error is 2e-6 for a lens that
/// loses three stops towards the corners.
inline constexpr int gain_nodes_apart = 8;

/// Conversion of the samples in even and odd columns of a row.
struct MosaicRow {
    float black[2], scale[2];
    const float* gain[2];  ///< at every 8th column from the first, and one more; null: none
};

/// Converts counts to linear light: black level, scale, clipping at 1, gain.
void mosaic_row(const std::uint16_t* counts, const MosaicRow& row, int count, float* out);

/// Green of a row of a mosaic: unchanged at its own sites, which are the odd or the even columns; elsewhere
/// interpolated along and across, weighted by the smaller change. `stride`: samples between two rows; 3 rows and
/// columns around the row must exist.
void green_row(const float* mosaic, std::ptrdiff_t stride, bool green_is_odd, int count, float* out);

}  // namespace optrel
