// SPDX-License-Identifier: GPL-3.0-or-later
// Encodes linear light along a row, several pixels at a time (Highway).
#pragma once

#include <cstdint>

namespace optrel {

/// Does the work of LightEncoder for red, green and blue at once: clips to [0, 1] and looks up the rounded value in a
/// table over the square root of light with `entries` steps (entries + 2 values), one for each colour.
struct EncodingTables {
    const float* values[3];
    int entries;
};
void encode_row(const float* red, const float* green, const float* blue, const EncodingTables& tables, int count,
                std::uint16_t* out);

}  // namespace optrel
