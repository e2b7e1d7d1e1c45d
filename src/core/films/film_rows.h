// SPDX-License-Identifier: GPL-3.0-or-later
// Converts rows of luma and colour differences to light and back, several pixels at a time (Highway). Uses no library
// types, because it is compiled for several kinds of processor.
#pragma once

#include <cstdint>

namespace optrel {

/// Integers of a row; `bytes`: of 8 bits each, otherwise of 16.
struct YuvRow {
    const void* first;
    bool bytes;
};
struct YuvRowOut {
    void* first;
    bool bytes;
    float most;  ///< the largest allowed value
};

/// value = scale x number + offset, and the inverse.
struct YuvScale {
    float scale = 1, offset = 0;
};

/// Conversion of R'G'B' on [0, 65535] to Y' and to the scaled differences (B' - Y') and (R' - Y').
struct YuvMatrix {
    float red_of_v, green_of_u, green_of_v, blue_of_u;
    float kr, kg, kb;           ///< Y' = kr R' + kg G' + kb B'
    float u_of_blue, v_of_red;  ///< factors of B' - Y' and R' - Y'
};

/// Samples of padding before and after a row of colour differences that is upsampled or downsampled.
inline constexpr int yuv_room = 32;

/// The weighted sum of `count` rows (1 to 4), scaled.
void yuv_blend(const YuvRow* rows, const float* weight, int count, int n, YuvScale by, float* out);
/// Upsampling by two: `even[0..4]` and `odd[0..4]` are weights of the samples from two before to two after. Reads two
/// samples before and after the row.
void yuv_spread(const float* in, int n, const float* even, const float* odd, float* out);
/// Downsampling by two: `weight[0..3]` are weights of the samples 2i - 1 to 2i + 2. Reads one sample before the row and
/// two after it.
void yuv_halve(const float* in, int n, const float* weight, float* out);
/// The weighted sum of `count` rows (1 to 3), as integers.
void yuv_pack(const float* const* rows, const float* weight, int count, int n, YuvScale by, YuvRowOut out);

struct YuvToLight {
    YuvRow luma;
    YuvScale by;
    const float *u, *v;
    YuvMatrix matrix;
    const float* table;        ///< light for each of 65536 values
    const float* const* gain;  ///< rows of factors for red, green, blue; null: none
    float* const* out;         ///< red, green, blue
    int n;                     ///< at least 16
};
void yuv_to_light(const YuvToLight& row);

/// A table over the leading bits of light: 2^(23 - dropped) entries for each power of two, from a lowest light up to 1,
/// linearly interpolated. An entry has its value in 20 bits (of which the last four are fractions of a 65535th), and
/// the difference to the next entry in 12.
struct CurveTable {
    const std::uint32_t* entries;
    std::uint32_t lowest;  ///< bits of the lowest light
    int dropped;           ///< bits of light after those that select the entry
};
inline constexpr int curve_table_parts = 16, curve_table_step_bits = 12;

/// 16-bit values of a row of at least 16 samples.
void film_values(const float* light, const CurveTable& table, int n, std::uint16_t* out);

struct YuvOfLight {
    const float* const* light;  ///< red, green, blue
    CurveTable table;
    YuvMatrix matrix;
    YuvScale by;
    YuvRowOut luma;  ///< `first` may be null: only the differences
    float *u, *v;
    int n;  ///< at least 16
};
void yuv_of_light(const YuvOfLight& row);

}  // namespace optrel
