// SPDX-License-Identifier: GPL-3.0-or-later
// Lossless JPEG (ITU-T T.81, process 14, SOF3) in the form that DNG files use for mosaics.
#pragma once

#include <opencv2/core.hpp>
#include <string>

namespace optrel {

/// Encodes one 16-bit channel. It is coded as two components of half the width, so that each sample is predicted from
/// its left neighbour of the same colour (predictor 1), with an optimal Huffman table. The width must be even. Equal
/// input gives equal bytes.
std::string encode_lossless_jpeg(const cv::Mat1w& samples);

}  // namespace optrel
