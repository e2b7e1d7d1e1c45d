// SPDX-License-Identifier: GPL-3.0-or-later
// Samples planes along a row of places, several at a time (Highway). Places are
// in samples (centre of sample i at i). They are given at every 8th place of
// the row and are linear between: `count` places have (count + 7) / 8 + 1
// nodes.
#pragma once

#include <array>
#include <opencv2/core.hpp>
#include <optional>

namespace optrel {

/// Places between two nodes.
inline constexpr int row_nodes_apart = 8;

struct RowPlaces {
    const float *x, *y;  ///< of the nodes
    int count;           ///< of places
};

/// A plane without OpenCV's type, for code that is compiled for several kinds of processor.
struct PlaneSamples {
    const float* first;
    std::ptrdiff_t stride;
    int width, height;
};

/// Cubic convolution (Keys 1981, a = -1/2) over 4 x 4 samples. The edge of the plane is extended by half a sample;
/// beyond that the result is `beyond`, or without it the extended edge.
void cubic_row(const cv::Mat1f& plane, const RowPlaces& places, std::optional<float> beyond, float* out);
/// The same for three planes of one size at the same places.
void cubic_rows(const std::array<cv::Mat1f, 3>& planes, const RowPlaces& places, std::optional<float> beyond,
                const std::array<float*, 3>& out);
/// Adds bilinear interpolation to `base`; the edge is extended without limit.
void linear_row(const cv::Mat1f& plane, const RowPlaces& places, const float* base, float* out);

}  // namespace optrel
