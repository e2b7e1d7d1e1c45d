// SPDX-License-Identifier: GPL-3.0-or-later
// Raw copies: a mosaic as it is, in the open raw format (Digital Negative 1.4), with what belongs to it.
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

/// What a raw copy holds beside the mosaic.
struct RawCopyContent {
    Metadata metadata;  ///< of the frame, with the lens that it is known to have
    MetadataChoice keep;
    XmpProperties properties;            ///< of Optrel's namespace
    std::array<std::string, 3> opcodes;  ///< the bytes of OpcodeList1 to 3; empty: none
    bool needs_opcodes = false;          ///< a reader that does not know them is to refuse the file
    bool compressed = true;              ///< lossless JPEG
    cv::Mat3b preview;                   ///< sRGB, red first, in the sensor's rows and columns
    std::filesystem::path original;      ///< to put inside; empty: none
    cv::Rect crop;                       ///< of the visible part: what readers show; empty: all of it
    double baseline_exposure = 0;        ///< EV
    std::vector<double>
        noise;  ///< NoiseProfile: slope and offset of the variance, for red, green and blue; empty: none
};

/// Writes a raw copy; `finish` is called before it gets its name. Same input, same bytes. By the rule of base/output.h.
/// Throws Error(file), and Error(input) for a mosaic that the format cannot hold.
void write_raw_copy(const std::filesystem::path& path, Existing existing, const RawMosaic& mosaic,
                    const std::filesystem::path& frame, const RawCopyContent& content, const Progress& progress,
                    const std::function<void()>& finish = {});

}  // namespace optrel
