// SPDX-License-Identifier: GPL-3.0-or-later
// A JPEG in memory, by libjpeg.
#pragma once

#include <cstdint>
#include <opencv2/core.hpp>
#include <string>

#include "frames/print_resolution.h"

namespace optrel {

/// Pixels of the longer side that a JPEG can have.
inline constexpr int largest_jpeg = 65500;

/// The nearest value of 8 bits.
inline std::uint8_t to_8(std::uint16_t v) { return static_cast<std::uint8_t>((v + 128) / 257); }

/// Red, green and blue of 8 or 16 bits; from a quality of 90 on colour has the resolution of light. Throws Error(input)
/// where the library refuses.
std::string jpeg_bytes(const cv::Mat& rgb, int quality, const std::string& icc = {}, const std::string& comment = {},
                       const PrintResolution& resolution = {});

}  // namespace optrel
