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

/// A DNG that the rig made.
const OutputFormat& dng_output();

/// A DNG with one uncompressed 16-bit mosaic or monochrome picture (DNG specification 1.4). Same input, same bytes. By
/// the rule of base/output.h. Throws Error(file).
void write_dng(const std::filesystem::path& path, const RawPicture& raw, const Metadata& metadata,
               Existing existing = Existing::keep);

}  // namespace optrel
