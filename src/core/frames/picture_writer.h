// SPDX-License-Identifier: GPL-3.0-or-later
// Writing developed pictures: TIFF, JPEG and PNG, by the formats' own libraries.
#pragma once

#include <filesystem>
#include <functional>
#include <opencv2/core.hpp>
#include <string>

#include "base/output.h"
#include "frames/export_metadata.h"
#include "frames/picture_coding.h"

namespace optrel {

/// A picture of a format that Optrel exported; a DNG is none, whoever wrote it.
const OutputFormat& picture_output(PictureFormat format);

/// Writes red, green and blue, row by row, the right way up, with an ICC profile and what `facts` say; `finish` is
/// called before the file gets its name. By the rule of base/output.h. Throws Error(file), and Error(input) for a size
/// that the format cannot hold.
void write_picture(const std::filesystem::path& path, Existing existing, const cv::Mat3w& rgb,
                   const PictureCoding& coding, const std::string& icc, const ExportFacts& facts = {},
                   const std::function<void()>& finish = {});

}  // namespace optrel
