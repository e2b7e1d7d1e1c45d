// SPDX-License-Identifier: GPL-3.0-or-later
// A patch chart with its reference colours, from a text file (ISO 28178, CGATS).
#pragma once

#include <filesystem>
#include <opencv2/core.hpp>
#include <string>
#include <vector>

namespace optrel {

struct ReferencePatch {
    std::string id;
    int column = 0, row = 0;  ///< from the upper left, which is A1
    cv::Vec3d xyz_d50;        ///< as seen under D50; a perfect diffuser has Y = 1
};

struct PatchChart {
    std::string name;  ///< of the file
    int columns = 0, rows = 0;
    double pitch_mm = 0, patch_mm = 0;  ///< from middle to middle, and side of a patch
    std::string illuminant;             ///< for which the reference colours are given: "D50"
    std::vector<ReferencePatch> patches;

    /// Null where the chart has no reference for a place.
    const ReferencePatch* at(int column, int row) const;
};

/// Reads the keywords CHART_COLUMNS, CHART_ROWS, PATCH_PITCH_MM, PATCH_SIZE_MM and ILLUMINANT (A, D50, D55, D65 or
/// D75), and the fields SAMPLE_ID and SAMPLE_LOC with LAB_L LAB_A LAB_B, or XYZ_X XYZ_Y XYZ_Z (a perfect diffuser has Y
/// = 100), or SPECTRAL_NM400 and so on (reflectance as a share or in percent). CIELAB and XYZ values for another
/// illuminant are adapted to D50 by Bradford; spectra are converted for D50. Throws Error(input) with the line when
/// something is missing or mistyped, or when a colour is impossible for a surface.
PatchChart patch_chart_from(const std::string& text, const std::string& where);
PatchChart read_patch_chart(const std::filesystem::path& path);

/// The text of a chart file with CIELAB values for D50.
std::string patch_chart_to_text(const PatchChart& chart);

}  // namespace optrel
