// SPDX-License-Identifier: GPL-3.0-or-later
// Rows of a Bayer mosaic, several samples at a time (Highway).
#pragma once

#include <cstddef>
#include <cstdint>

namespace optrel {

/// How many columns lie between two nodes of a gain, which is straight between: for 8 px that is exact to 2e-6 where a
/// lens loses three stops towards the corners.
inline constexpr int gain_nodes_apart = 8;

/// What the samples of even and odd columns of a row mean.
struct MosaicRow {
    float black[2], scale[2];
    const float* gain[2];  ///< at every 8th column from the first, one more than there are such; null: none
};

/// Counts to linear light: black level, scale, clipping at 1, gain.
void mosaic_row(const std::uint16_t* counts, const MosaicRow& row, int count, float* out);

/// Green of a row of a mosaic: as it is at its own sites, which are those of odd or of even columns; at the others
/// along and across, weighed by how little the picture changes that way. `stride` samples lie between two rows; the
/// samples of 3 rows and columns about the row must be there.
void green_row(const float* mosaic, std::ptrdiff_t stride, bool green_is_odd, int count, float* out);

}  // namespace optrel
