// SPDX-License-Identifier: GPL-3.0-or-later
// Writing pictures: 16-bit TIFF for results, DNG for raw frames.
#pragma once

#include <filesystem>
#include <functional>
#include <opencv2/core.hpp>
#include <string>

#include "base/output.h"
#include "frames/metadata.h"
#include "frames/picture.h"

namespace optrel {

/// The sRGB ICC profile as Little CMS builds it.
std::string srgb_icc_profile();

/// A 16-bit TIFF that Optrel exported; a DNG is none, whoever wrote it.
const OutputFormat& tiff_output();
/// A DNG that the rig made.
const OutputFormat& dng_output();

/// 16-bit RGB TIFF (row-major, R G B) with an ICC profile; `finish` may add to the file before it gets its name. By the
/// rule of base/output.h. Throws Error(file).
void write_tiff16(const std::filesystem::path& path, Existing existing, const cv::Mat3w& rgb, const std::string& icc,
                  const std::function<void(const std::filesystem::path&)>& finish = {});

/// A DNG with one uncompressed 16-bit Bayer picture (DNG specification 1.4). Same input, same bytes. By the rule of
/// base/output.h. Throws Error(file).
void write_dng(const std::filesystem::path& path, const RawPicture& raw, const Metadata& metadata,
               Existing existing = Existing::keep);

}  // namespace optrel
