// SPDX-License-Identifier: GPL-3.0-or-later
// Rows of luma and colour differences, as moving pictures keep them, to light and back, several pixels at a time
// (Highway). No library's types: it is compiled for several kinds of processor.
#pragma once

#include <cstdint>

namespace optrel {

/// Whole numbers of a row; `bytes`: of 8 bits each, otherwise of 16.
struct YuvRow {
    const void* first;
    bool bytes;
};
struct YuvRowOut {
    void* first;
    bool bytes;
    float most;  ///< the largest value that goes in
};

/// value = scale x number + offset, and the other way round.
struct YuvScale {
    float scale = 1, offset = 0;
};

/// What R'G'B' on [0, 65535] are of Y', and of the differences (B' - Y') and (R' - Y') as they are kept.
struct YuvMatrix {
    float red_of_v, green_of_u, green_of_v, blue_of_u;
    float kr, kg, kb;           ///< Y' = kr R' + kg G' + kb B'
    float u_of_blue, v_of_red;  ///< of B' - Y', of R' - Y'
};

/// Colour differences have this many samples of room before and behind a row that is spread or halved.
inline constexpr int yuv_room = 32;

/// The sum of `count` rows (1 to 4), each by its weight, scaled.
void yuv_blend(const YuvRow* rows, const float* weight, int count, int n, YuvScale by, float* out);
/// Twice as many samples: `even[0..4]` and `odd[0..4]` weigh the samples from two before to two behind. Reads two
/// samples before the row and behind it.
void yuv_spread(const float* in, int n, const float* even, const float* odd, float* out);
/// Half as many: `weight[0..3]` weigh samples 2i - 1 to 2i + 2. Reads one before the row and two behind it.
void yuv_halve(const float* in, int n, const float* weight, float* out);
/// Sum of `count` rows (1 to 3) of values by their weights, as whole numbers.
void yuv_pack(const float* const* rows, const float* weight, int count, int n, YuvScale by, YuvRowOut out);

struct YuvToLight {
    YuvRow luma;
    YuvScale by;
    const float *u, *v;
    YuvMatrix matrix;
    const float* table;        ///< light of each of 65536 values
    const float* const* gain;  ///< of red, green, blue: rows of what light is multiplied by; null: by nothing
    float* const* out;         ///< red, green, blue
    int n;                     ///< at least 16
};
void yuv_to_light(const YuvToLight& row);

/// A table of values over the leading bits of light: 2^(23 - dropped) entries for each power of two, from a lowest
/// light on up to 1, with straight lines between. An entry holds its value in 20 bits, of which the last are 1/16 of
/// 65535ths, and how much further the next one is in 12.
struct CurveTable {
    const std::uint32_t* entries;
    std::uint32_t lowest;  ///< its bits
    int dropped;           ///< bits of light behind those that choose the entry
};
inline constexpr int curve_table_parts = 16, curve_table_step_bits = 12;

/// Values of 16 bits of a row of at least 16.
void film_values(const float* light, const CurveTable& table, int n, std::uint16_t* out);

struct YuvOfLight {
    const float* const* light;  ///< red, green, blue
    CurveTable table;
    YuvMatrix matrix;
    YuvScale by;
    YuvRowOut luma;  ///< `first` may be null: the differences alone
    float *u, *v;
    int n;  ///< at least 16
};
void yuv_of_light(const YuvOfLight& row);

}  // namespace optrel
