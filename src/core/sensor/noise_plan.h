// SPDX-License-Identifier: GPL-3.0-or-later
// What is still worth photographing for a noise measurement, and what it would gain.
#pragma once

#include <string>
#include <vector>

#include "sensor/noise_report.h"

namespace optrel {

/// Pairs and dark frames of a good measurement.
inline constexpr int wanted_pairs = 8, wanted_darks = 4;

/// One thing to take at an ISO.
struct NoisePlanStep {
    int iso = 0;
    std::string take;  ///< "5 more pairs of flat fields"
    std::string gain;  ///< "the uncertainty of the gain falls from 0.8 to 0.5 %"
};

/// The most useful steps first. Empty when nothing is missing: figures that are known within 0.25 percent are good
/// enough.
std::vector<NoisePlanStep> noise_plan(const NoiseReport& report);

}  // namespace optrel
