// SPDX-License-Identifier: GPL-3.0-or-later
// Statistics of two frames of the same light, by blocks of one colour: the input of a photon transfer measurement.
#pragma once

#include <vector>

#include "frames/picture.h"

namespace optrel {

/// Sums over one block of samples of one site of the colour filter, in counts.
struct PairBlock {
    float mean_a = 0, mean_b = 0;          ///< above the black level that was given
    float variance_a = 0, variance_b = 0;  ///< within the block
    float covariance = 0;                  ///< of the two frames
    /// Covariance of the residuals of both frames from a plane each: what both frames show besides slow changes of
    /// light. Unbiased for independent samples.
    float pattern = 0;
    /// Covariance of a - b between neighbours in a row: 0 for noise that nobody filtered.
    float neighbours = 0;
    bool clipped = false;  ///< a sample is at the white level or at zero
};

/// Side of a block in samples of its site.
inline constexpr int pair_block_side = 16;
/// Samples of a block.
inline constexpr int pair_block_samples = pair_block_side * pair_block_side;

/// The blocks of one site, row by row.
struct PairPlane {
    Channel channel = Channel::green;
    int across = 0, down = 0;
    std::vector<PairBlock> blocks;
    /// Ratio of the means of both frames over all blocks that are not clipped; 1 when there are none.
    double ratio = 1;
    double mean = 0;     ///< of both frames over the same blocks, counts
    double clipped = 0;  ///< share of clipped blocks

    /// Variance of a - scale b in a block, without bias.
    static double difference_variance(const PairBlock& block, double scale) {
        return block.variance_a - 2 * scale * block.covariance + scale * scale * block.variance_b;
    }
};

/// Rows and columns between samples of one site: 6 where filter or black levels repeat after 6, otherwise 2. A
/// monochrome sensor counts as one with four green sites.
int site_step(const RawPicture& raw);

/// Each site of the filter, row by row. Throws Error(input) when the frames differ in size or filter, or are smaller
/// than two blocks each way.
std::vector<PairPlane> pair_statistics(const RawPicture& a, const RawPicture& b, const SitePattern<double>& black);

/// Temporal noise that all samples of a row, or of a column, have in common (counts, one sigma), from two dark frames:
/// differences of neighbouring lines, less what the noise of single samples explains.
struct LineNoise {
    double row = 0, column = 0;
};
LineNoise line_noise(const RawPicture& a, const RawPicture& b);

/// The mean step between values that occur in a frame's green samples, between the 5th and the 95th percentile. 1 for a
/// frame that uses all values; more when counts were multiplied after the conversion. 0 when the frame has too few
/// samples for each value.
double value_step(const RawPicture& frame);

}  // namespace optrel
