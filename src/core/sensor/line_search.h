// SPDX-License-Identifier: GPL-3.0-or-later
// Finds rows and columns of a sensor that differ from their neighbours, whole or in part.
#pragma once

#include <opencv2/core.hpp>
#include <vector>

namespace optrel {

struct DeviatingLine {
    bool is_row = false;
    int index = 0, first = 0, last = 0;  ///< first and last sample along the line
    double mean = 0;                     ///< deviation, in the unit of the samples
};

/// Compares each row and column with the three nearest of the same colours on either side, `period` apart. A line is
/// found when the mean of its deviating part exceeds seven sigma of what lines of this picture differ by, and `least`.
/// `deviation`: each sample less the median of its neighbours (sample_phases.h), by which single outliers are told.
std::vector<DeviatingLine> deviating_lines(const cv::Mat1f& samples, const cv::Mat1f& deviation, int period,
                                           double least);

}  // namespace optrel
