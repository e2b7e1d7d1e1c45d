// SPDX-License-Identifier: GPL-3.0-or-later
// What a delivery will write of a frame, told before anything is developed.
#pragma once

#include "studio/exporting.h"

namespace optrel {

struct ExportPreview {
    std::filesystem::path out;
    std::string name_problem;     ///< why there is no such name, or why the file would not be written
    int width = 0, height = 0;    ///< px, as it is held
    std::string coding;           ///< "16-bit TIFF, ROMM RGB, whole size"
    std::string along, left_out;  ///< metadata, in words
    std::string corrected;        ///< as the metadata will say it; empty: nothing is
    std::string warning;          ///< what a person should know first
};
/// Throws Error(input) as the geometry of the frame does.
ExportPreview export_preview(const std::filesystem::path& frame, const FrameDevelopment& facts,
                             const Delivery& delivery, const std::filesystem::path& folder);

}  // namespace optrel
