// Writing pictures: 16-bit TIFF for results, DNG for raw frames.
#pragma once

#include <filesystem>
#include <opencv2/core.hpp>
#include <string>

#include "frames/metadata.h"
#include "frames/picture.h"

namespace optrel {

/// The sRGB ICC profile as Little CMS builds it.
std::string srgb_icc_profile();

/// 16-bit RGB TIFF (row-major, R G B), with an ICC profile and the metadata of the frame. Atomic. Throws Error(file).
void write_tiff16(const std::filesystem::path& path, const cv::Mat3w& rgb, const std::string& icc, const Metadata& metadata);

/// A DNG with one uncompressed 16-bit Bayer picture (DNG specification 1.4). Same input, same bytes. Atomic. Throws Error(file).
void write_dng(const std::filesystem::path& path, const RawPicture& raw, const Metadata& metadata);

}  // namespace optrel
