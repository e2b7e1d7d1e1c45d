// SPDX-License-Identifier: GPL-3.0-or-later
// A correction of colours by hue and saturation, on top of another form: in the hues of linear ROMM RGB, as the hue
// table of the DNG specification has it. It does not depend on brightness, and leaves white as it is.
#pragma once

#include <array>
#include <opencv2/core.hpp>

namespace optrel {

struct HueCorrection {
    static constexpr int node_count = 6;
    /// At one hue, for saturated colours.
    struct Node {
        double shift = 0;       ///< of the hue, degrees
        double saturation = 0;  ///< natural logarithm of the factor of saturation
        double value = 0;       ///< the same of value
    };
    std::array<Node, node_count> nodes;  ///< every 60 degrees, from red

    /// XYZ for D50 in and out. Between nodes the correction is interpolated; towards grey it fades.
    cv::Vec3d operator()(const cv::Vec3d& xyz) const;
};

}  // namespace optrel
