// SPDX-License-Identifier: GPL-3.0-or-later
// File names, formats and results of exports.
#pragma once

#include <filesystem>
#include <opencv2/core.hpp>
#include <set>
#include <string>
#include <vector>

#include "base/output.h"
#include "exchange/delivery.h"
#include "studio/development/development_facts.h"

namespace optrel {

/// File names within a folder and an export. All names differ, also ignoring case.
class ExportNames {
public:
    /// Existing files count as taken unless they may be replaced.
    ExportNames(std::filesystem::path folder, const Delivery& delivery)
        : folder_(std::move(folder)), delivery_(delivery) {}

    /// Path for a frame, the `number`th of the export. Throws Error(input) when the name needs missing metadata, and
    /// Error(file) when the path is taken and must be kept.
    std::filesystem::path take(const std::filesystem::path& frame, const FrameDevelopment& facts, int number);
    /// Marks a path as used.
    void given(const std::filesystem::path& path);

private:
    bool taken_here(const std::filesystem::path& path) const;

    std::filesystem::path folder_;
    const Delivery& delivery_;
    std::set<std::string> given_;  ///< in lower case
};

/// Accuracy with which the opcodes of a raw copy reproduce the correction.
struct OpcodeFit {
    std::string geometry, falloff;  ///< names of the opcodes; empty: none
    double geometry_rms_px = 0, geometry_largest_px = 0, green_largest_px = 0, scale = 1;
    double falloff_rms_percent = 0, falloff_largest_percent = 0;
};

struct Exported {
    std::filesystem::path frame, out;
    std::string profile = "none";  ///< name of the profile
    int width = 0, height = 0;     ///< display orientation
    double scale = 1;              ///< scale by the border setting
    cv::Rect kept;                 ///< part of the corrected picture inside the crop, px
    std::string problem;           ///< reason of a failure; then nothing was written
    std::vector<std::string> remarks;
    OpcodeFit carried;       ///< for a raw copy
    long long pictures = 0;  ///< for a film: number of frames
};

/// Result filled with what is known before writing: size from the metadata, and the profile's name.
Exported about_to_export(const std::filesystem::path& frame, const FrameDevelopment& facts,
                         const std::filesystem::path& out);

/// Output format for base/output.h.
const OutputFormat& export_output(ExportFormat format);

/// Corrections of a frame for the metadata of its export: what, by what, and how strong; empty when nothing was
/// corrected.
XmpProperties correction_note(const FrameDevelopment& frame);

}  // namespace optrel
