// SPDX-License-Identifier: GPL-3.0-or-later
// Decodes rendered pictures by the formats' own libraries (libjpeg, libpng, libtiff). A general picture library would
// load a hundred other libraries at every start of the program.
#pragma once

#include <filesystem>
#include <opencv2/core.hpp>

namespace optrel {

/// Limit for rendered pictures, because a file of a few kilobytes may unpack to gigabytes.
constexpr double most_pixels = 160e6;

/// Decodes a JPEG, PNG or TIFF to three channels, red first, of 8 or 16 bits or floats; grey is repeated. Opacity is
/// dropped, the orientation tag is ignored, and the first of several pictures is used. Throws Error(input) in one
/// sentence for a file that is truncated, damaged, of another format, or larger than most_pixels.
cv::Mat decode_picture(const std::filesystem::path& path);

}  // namespace optrel
