// SPDX-License-Identifier: GPL-3.0-or-later
// Linear light to written values along a row, several pixels at a time (Highway).
#pragma once

#include <cstdint>

namespace optrel {

/// What LightEncoder does, for red, green and blue at once: clips to [0, 1] and takes the value from a table over the
/// square root of light with `entries` steps (entries + 2 values), rounded.
struct EncodingTable {
    const float* values;
    int entries;
};
void encode_row(const float* red, const float* green, const float* blue, const EncodingTable& table, int count,
                std::uint16_t* out);

}  // namespace optrel
