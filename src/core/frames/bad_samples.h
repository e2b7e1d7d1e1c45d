// SPDX-License-Identifier: GPL-3.0-or-later
// Samples of a raw frame that are known to be wrong, and their replacement from their neighbours.
#pragma once

#include <opencv2/core.hpp>
#include <vector>

#include "frames/picture.h"

namespace optrel {

/// Positions count in the visible area: row 0 and column 0 are its first.
struct BadSamples {
    std::vector<cv::Point> points;  ///< x: column, y: row
    std::vector<cv::Rect> areas;    ///< parts of rows and columns

    bool empty() const { return points.empty() && areas.empty(); }
};

/// Not 0 where a sample of a frame of this size is bad; what lies outside the frame is ignored.
cv::Mat1b marked(const BadSamples& bad, const cv::Size& size);

/// Replaces the bad samples by an interpolation between good ones of the same colour on both sides; of the four
/// directions those count most along which the picture changes least. A sample without a good neighbour within 12
/// samples stays. What lies outside the frame is ignored. `raw` gets samples of its own: other pictures that share its
/// memory keep theirs.
void replace_bad_samples(RawPicture& raw, const BadSamples& bad);

}  // namespace optrel
