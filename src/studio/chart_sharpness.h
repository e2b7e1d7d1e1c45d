// SPDX-License-Identifier: GPL-3.0-or-later
// What the correction of a chart frame does to its resolution, over the whole picture.
#pragma once

#include <filesystem>
#include <optional>

#include "calibration/resolution.h"
#include "charts/chart.h"
#include "studio/frame_development.h"

namespace optrel {

struct ChartSharpness {
    PictureGeometry geometry, corrected;  ///< of the frame, and of the corrected picture
    ResolutionField before;               ///< in the frame's own samples
    std::vector<ResolutionPoint> after;   ///< in the corrected picture before tones and sharpening
};
/// Without a chart the board is found by itself, plain or coded. Throws Error(input) as reading does, and for a frame
/// that shows no board.
ChartSharpness chart_sharpness(const std::filesystem::path& frame, const FrameDevelopment& development,
                               const std::optional<ChartSpec>& chart, const Progress& progress);

}  // namespace optrel
