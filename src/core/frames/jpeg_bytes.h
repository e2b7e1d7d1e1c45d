// SPDX-License-Identifier: GPL-3.0-or-later
// A JPEG in memory, by libjpeg.
#pragma once

#include <cstdint>
#include <opencv2/core.hpp>
#include <string>

#include "frames/print_resolution.h"

namespace optrel {

/// Largest side of a JPEG in pixels.
inline constexpr int largest_jpeg = 65500;

/// Rounds to 8 bits.
inline std::uint8_t to_8(std::uint16_t v) { return static_cast<std::uint8_t>((v + 128) / 257); }

/// Encodes red, green and blue of 8 or 16 bits; from quality 90 on, without chroma subsampling. Throws Error(input)
/// when the library refuses.
std::string jpeg_bytes(const cv::Mat& rgb, int quality, const std::string& icc = {}, const std::string& comment = {},
                       const PrintResolution& resolution = {});

}  // namespace optrel
