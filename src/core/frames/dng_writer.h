// SPDX-License-Identifier: GPL-3.0-or-later
// Writes raw frames in the open format Digital Negative 1.4: simulated frames, and raw copies (an unchanged mosaic with
// the metadata of its frame).
#pragma once

#include <array>
#include <filesystem>
#include <functional>
#include <opencv2/core.hpp>
#include <string>
#include <vector>

#include "base/output.h"
#include "base/progress.h"
#include "frames/metadata.h"
#include "frames/metadata_choice.h"
#include "frames/picture.h"
#include "frames/xmp_packet.h"

namespace optrel {

/// A DNG that Optrel wrote.
const OutputFormat& dng_output();

/// Writes a frame with an uncompressed mosaic or monochrome picture, without a preview, by the rules of base/output.h.
/// Equal input gives equal bytes. Throws Error(file).
void write_dng(const std::filesystem::path& path, const RawPicture& raw, const Metadata& metadata,
               Existing existing = Existing::keep);

/// Contents of a raw copy besides the mosaic.
struct RawCopyContent {
    Metadata metadata;  ///< of the frame, with its known lens
    MetadataChoice keep;
    XmpProperties properties;            ///< of Optrel's namespace
    std::array<std::string, 3> opcodes;  ///< the bytes of OpcodeList1 to 3; empty: none
    bool needs_opcodes = false;          ///< readers that do not support them must refuse the file
    bool compressed = true;              ///< lossless JPEG
    cv::Mat3b preview;                   ///< sRGB, red first, in the sensor's rows and columns
    std::filesystem::path original;      ///< original file to embed; empty: none
    cv::Rect crop;                       ///< part of the visible area that readers show; empty: all of it
    double baseline_exposure = 0;        ///< EV
    std::vector<double>
        noise;  ///< NoiseProfile: slope and offset of the variance, for red, green and blue; empty: none
};

/// Writes a raw copy by the rules of base/output.h; calls `finish` before the file gets its final name. Equal input
/// gives equal bytes. Throws Error(file), and Error(input) for a mosaic that the format cannot represent.
void write_raw_copy(const std::filesystem::path& path, Existing existing, const RawMosaic& mosaic,
                    const std::filesystem::path& frame, const RawCopyContent& content, const Progress& progress,
                    const std::function<void()>& finish = {});

}  // namespace optrel
