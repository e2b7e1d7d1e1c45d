// SPDX-License-Identifier: GPL-3.0-or-later
// Preview of an export's metadata and name, before anything is developed.
#pragma once

#include "studio/exports/exporting.h"

namespace optrel {

struct ExportPreview {
    std::filesystem::path out;
    std::string name_problem;     ///< reason why there is no name, or why the file would not be written
    int width = 0, height = 0;    ///< px, in display orientation
    std::string coding;           ///< "16-bit TIFF, ROMM RGB, whole size"
    std::string along, left_out;  ///< metadata, as text
    std::string corrected;        ///< correction note in the metadata; empty: none
    std::string warning;          ///< warnings
};
/// Throws Error(input) as computing the geometry does.
ExportPreview export_preview(const std::filesystem::path& frame, const FrameDevelopment& facts,
                             const Delivery& delivery, const std::filesystem::path& folder);

}  // namespace optrel
