// SPDX-License-Identifier: GPL-3.0-or-later
// The zones of the picture for which resolution is summarised in one figure.
#pragma once

namespace optrel {

struct ResolutionZone {
    const char* name;
    double low, high;  ///< field heights
};
inline constexpr ResolutionZone resolution_zones[] = {{"centre", 0, 0.3}, {"between", 0.3, 0.7}, {"outer", 0.7, 1.01}};

}  // namespace optrel
