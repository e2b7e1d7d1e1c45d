// SPDX-License-Identifier: GPL-3.0-or-later
// Colour differences between bodies on the same chart, without pins and with the pins of a baseline.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "baselines/tier.h"
#include "patches/alike.h"
#include "store/store.h"

namespace optrel {

/// A chart as one body renders it at one ISO.
struct RenderedChart {
    std::string body;  ///< id; empty: the chart's own values
    int iso = 0;
    double kelvin = 0;
    std::vector<cv::Vec3d> recorded;  ///< XYZ for D50 of each patch, without any pin, for equal light
    std::vector<cv::Vec3d> pinned;    ///< the same with what the baseline pins
    std::vector<bool> used;
};

/// CIEDE2000 of the same patches of two bodies at one ISO.
struct PairSpread {
    std::string body_a, body_b;
    int iso = 0;
    Spread recorded, pinned;
};

struct FleetSpread {
    PatchChart chart;
    std::vector<RenderedChart> charts;  ///< by body, then ISO
    std::vector<PairSpread> pairs;
    /// The body that is farther from the others than any of them from one another; empty where none is.
    std::string stands_out;
    double stands_out_by = 0;           ///< its mean dE2000 from the others, with what is pinned
    std::vector<std::string> problems;  ///< one sentence for each body that is left out
};

/// Bodies whose colours are measured, by id, in the order of the register.
std::vector<std::string> bodies_with_colours(const Store& store);

/// Compares bodies (ids) in the light nearest to `kelvin` that the first one was measured in. Exposure is compared for
/// equal light where the frames record time and aperture. Bodies that were measured on another chart are left out.
/// Throws Error(input) when fewer than two bodies can be compared.
FleetSpread fleet_spread(const Store& store, const std::vector<std::string>& bodies, const Revision& baseline,
                         double kelvin);

}  // namespace optrel
