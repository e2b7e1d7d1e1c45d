// SPDX-License-Identifier: GPL-3.0-or-later
// The lens that the benchmarks correct: 2.5 percent barrel, lateral colour, falloff; on a 24-megapixel sensor.
#pragma once

#include "optics/frame_map.h"

namespace optrel::bench {

inline const PictureGeometry& geometry_24mp() {
    static const PictureGeometry geometry{6000, 4000, 3.9};
    return geometry;
}

inline ProfileNode sample_node() {
    ProfileNode node;
    node.setting = {35, 4, 1};
    node.focal_mm = 35.4;
    node.centre_mm = {0.08, -0.05};
    node.model = LensModel(LensModelKind::radial_tangential, {-0.2, 0.27, -0.3, 1e-5, 1e-5, 0, 0});
    node.red = LateralChromatic{0.0002, 0.0005, 0, {0.001, 0}, 0};
    node.blue = LateralChromatic{-0.0003, -0.0004, 0, {0, 0.001}, 0};
    Falloff falloff;
    for (auto& a : falloff.a) a = {-0.34, 0.04, -0.06};
    node.falloff = falloff;
    return node;
}

}  // namespace optrel::bench
