// SPDX-License-Identifier: GPL-3.0-or-later
// Pixels of rendered pictures as they stand in the file, by the formats' own libraries (libjpeg, libpng, libtiff).
//
// A general picture library would bring a hundred other libraries along, and every start of the program would pay for
// them.
#pragma once

#include <filesystem>
#include <opencv2/core.hpp>

namespace optrel {

/// The most pixels of a rendered picture: a file of a few kilobytes may unfold to gigabytes.
constexpr double most_pixels = 160e6;

/// A JPEG, PNG or TIFF with three channels, red first, of 8 or 16 bits or of floats; grey pictures are repeated.
/// Opacity is left out, the orientation tag ignored, and of several pictures in a file the first is taken. Throws
/// Error(input) in one sentence for a file that is truncated, damaged, none of these, or of more than most_pixels.
cv::Mat decode_picture(const std::filesystem::path& path);

}  // namespace optrel
