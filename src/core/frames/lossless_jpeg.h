// SPDX-License-Identifier: GPL-3.0-or-later
// Lossless JPEG (ITU-T T.81, process 14, SOF3) as DNG files hold mosaics in it.
#pragma once

#include <opencv2/core.hpp>
#include <string>

namespace optrel {

/// One picture of one sample a place, with 16 bits. It is coded as two components of half the width, so that each
/// sample is predicted from the one of its own colour to the left (predictor 1); the Huffman table is the best for the
/// picture. The width must be even. Same input, same bytes.
std::string encode_lossless_jpeg(const cv::Mat1w& samples);

}  // namespace optrel
