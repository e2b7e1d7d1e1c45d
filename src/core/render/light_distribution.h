// SPDX-License-Identifier: GPL-3.0-or-later
// Histogram of the light of a frame by channel, in the raw samples before and after falloff correction, because
// brightening the corners can clip.
#pragma once

#include <array>
#include <vector>

#include "frames/picture.h"
#include "optics/frame_map.h"

namespace optrel {

struct LightDistribution {
    static constexpr double lowest_ev = -12, highest_ev = 2, step_ev = 0.25;
    static constexpr int bins = static_cast<int>((highest_ev - lowest_ev) / step_ev);

    struct Side {
        std::array<std::vector<double>, 3> percent;  ///< of the channel's samples in each bin of EV below white
        std::array<double, 3> clipped_percent{};     ///< share at or above white
    };
    Side before, after;
};

/// Of a mosaic.
LightDistribution light_distribution(const RawPicture& raw, const FrameMap& lens);
/// Of a rendered picture in linear form.
LightDistribution light_distribution(const cv::Mat3f& linear, const FrameMap& lens);

}  // namespace optrel
