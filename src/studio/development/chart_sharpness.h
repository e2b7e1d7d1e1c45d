// SPDX-License-Identifier: GPL-3.0-or-later
// Effect of the correction on the resolution over a whole chart frame.
#pragma once

#include <filesystem>
#include <optional>

#include "calibration/resolution.h"
#include "charts/chart.h"
#include "studio/development/frame_development.h"

namespace optrel {

struct ChartSharpness {
    PictureGeometry geometry, corrected;  ///< sizes of the frame and of the corrected picture
    ResolutionField before;               ///< measured on the frame's own samples
    std::vector<ResolutionPoint> after;   ///< measured in the corrected picture before tone curve and sharpening
};
/// Without a chart specification, the board is detected automatically, plain or coded. Throws Error(input) as reading
/// does, and for a frame without a board.
ChartSharpness chart_sharpness(const std::filesystem::path& frame, const FrameDevelopment& development,
                               const std::optional<ChartSpec>& chart, const Progress& progress);

}  // namespace optrel
