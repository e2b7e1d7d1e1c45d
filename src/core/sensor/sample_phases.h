// SPDX-License-Identifier: GPL-3.0-or-later
// Compares samples with their neighbours of the same site of the filter.
#pragma once

#include <opencv2/core.hpp>

namespace optrel {

/// Samples less the median of the 3 x 3 samples around them that are `period` rows and columns apart; 0 where a site
/// has too few samples.
cv::Mat1f less_local_median(const cv::Mat1f& samples, int period);

/// Each sample over that median, less 1. 0 where the median is not above `least`.
cv::Mat1f relative_to_local_median(const cv::Mat1f& samples, int period, float least);

/// One sigma of the values, whatever a few of them do.
double robust_sigma(const cv::Mat1f& values);

}  // namespace optrel
