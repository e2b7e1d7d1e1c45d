// SPDX-License-Identifier: GPL-3.0-or-later
// Decodes rendered pictures by the formats' own libraries (libjpeg, libpng, libtiff). A general picture library would
// load a hundred other libraries at every start of the program.
#pragma once

#include <filesystem>
#include <opencv2/core.hpp>
#include <string>

namespace optrel {

/// Limit for rendered pictures, because a file of a few kilobytes may unpack to gigabytes.
constexpr double most_pixels = 160e6;

/// Decodes a JPEG, PNG or TIFF to three channels, red first, of 8 or 16 bits or floats; grey is repeated. Opacity is
/// dropped, the orientation tag is ignored, and the first of several pictures is used. Throws Error(input) in one
/// sentence for a file that is truncated, damaged, of another format, or larger than most_pixels.
cv::Mat decode_picture(const std::filesystem::path& path);

/// Decodes a JPEG in memory at 1/1, 1/2, 1/4 or 1/8 of its size, whichever is the smallest with a longer side of at
/// least `side` px; so it takes a fraction of the time. Red first; the orientation tag is ignored. Throws Error(input)
/// that names `path`, where the bytes come from, as decode_picture() does.
cv::Mat3b decode_jpeg_reduced(const std::string& bytes, int side, const std::filesystem::path& path);

}  // namespace optrel
