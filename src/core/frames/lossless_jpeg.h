// SPDX-License-Identifier: GPL-3.0-or-later
// Lossless JPEG (ITU-T T.81, process 14, SOF3) in the form that DNG files use for mosaics.
#pragma once

#include <opencv2/core.hpp>
#include <string>

namespace optrel {

/// Encodes rows of 16-bit samples with an optimal Huffman table. Each sample is predicted from the one `components`
/// before it (predictor 1): 2 for a mosaic, whose columns alternate in colour, otherwise the samples of a pixel. The
/// width must be a multiple of it. Equal input gives equal bytes.
std::string encode_lossless_jpeg(const cv::Mat1w& samples, int components = 2);

}  // namespace optrel
