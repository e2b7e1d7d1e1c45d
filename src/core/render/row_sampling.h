// SPDX-License-Identifier: GPL-3.0-or-later
// Planes sampled along a row of wanted places, several places at a time (Highway).
//
// Places are in samples (centre of sample i at i). They are given at every 8th place of the row, and are linear
// between: for `count` places there are (count + 7) / 8 + 1 nodes.
#pragma once

#include <array>
#include <opencv2/core.hpp>
#include <optional>

namespace optrel {

/// How many places lie between two nodes.
inline constexpr int row_nodes_apart = 8;

struct RowPlaces {
    const float *x, *y;  ///< of the nodes
    int count;           ///< of places
};

/// A plane without its library's type, for code that is compiled for several kinds of processor.
struct PlaneSamples {
    const float* first;
    std::ptrdiff_t stride;
    int width, height;
};

/// Cubic convolution (Keys 1981, a = -1/2) over 4 x 4 samples. Beyond the plane its edge goes on by half a sample;
/// after that `beyond` is written, or, without one, the edge goes on for ever.
void cubic_row(const cv::Mat1f& plane, const RowPlaces& places, std::optional<float> beyond, float* out);
/// The same of three planes of one size at the same places.
void cubic_rows(const std::array<cv::Mat1f, 3>& planes, const RowPlaces& places, std::optional<float> beyond,
                const std::array<float*, 3>& out);
/// `base` plus what is linear between the four samples about each place; the edge goes on for ever.
void linear_row(const cv::Mat1f& plane, const RowPlaces& places, const float* base, float* out);

}  // namespace optrel
