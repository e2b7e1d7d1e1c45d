// SPDX-License-Identifier: GPL-3.0-or-later
// Finds the defects of a sensor on dark frames and flat fields.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/progress.h"
#include "sensor/defect_map.h"

namespace optrel {

struct DefectSearch {
    DefectMap map;
    cv::Mat1f evenness;                 ///< of the flat fields, see DustFound; empty without them
    std::vector<std::string> problems;  ///< one sentence for each frame or setting that was left out
};

/// Dark frames are sorted by ISO and exposure time, two or more for each. A pixel is hot when it stands out of its
/// neighbours of the same colour by five sigma of a single frame in the mean of the frames, the brightest one left
/// out, so that a particle's trace in one frame is no defect. It is unstable when its variance over at least four
/// frames, the brightest left out, has a chance below 1 in 100 in the whole picture, and its deviation exceeds a
/// quarter of its excess. Flat fields show dead pixels and dust. Throws Error(input) when frames come from different
/// bodies or differ in size, and when nothing can be used.
DefectSearch find_defects(const std::vector<std::filesystem::path>& flats,
                          const std::vector<std::filesystem::path>& darks, Progress& progress);

/// Frames sorted by their light: those below 2 percent of the white level are dark frames. A file that cannot be read
/// counts as a flat field: find_defects() tells why it cannot be used.
struct SortedFrames {
    std::vector<std::filesystem::path> flats, darks;
};
SortedFrames sorted_by_light(const std::vector<std::filesystem::path>& frames, Progress& progress);

}  // namespace optrel
