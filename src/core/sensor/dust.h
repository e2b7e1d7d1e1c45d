// SPDX-License-Identifier: GPL-3.0-or-later
// Dust on the sensor, found on flat fields: round shadows that stay where they are.
#pragma once

#include <filesystem>
#include <opencv2/core.hpp>
#include <string>
#include <vector>

#include "base/progress.h"
#include "optics/coordinates.h"

namespace optrel {

struct DustSpot {
    Vec2 place;                ///< px of the frame
    double radius_px = 0;      ///< one sigma of its shadow, taken as a Gaussian
    double depth_percent = 0;  ///< share of the light that it takes in its middle
    double sigma_percent = 0;  ///< one sigma of the depth, from the noise around it
};

struct DustFound {
    std::vector<DustSpot> spots;  ///< deepest first
    int width = 0, height = 0;
    std::vector<std::string> problems;  ///< one sentence for each frame that was left out
    /// Light over its surround, less 1; reduced to at most 1200 px across, to look at.
    cv::Mat1f evenness;
};

/// A spot must exceed its noise by this many sigma.
inline constexpr double dust_sigmas = 7;

/// Finds spots on the mean of raw or rendered flat fields of one body; falloff and lamp are divided out. Spots closer
/// than 24 px to the edge are not looked for. Throws Error(input) when no frame can be used, and when frames differ in
/// size.
DustFound find_dust(const std::vector<std::filesystem::path>& flats, Progress& progress);

}  // namespace optrel
