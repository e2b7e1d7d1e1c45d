// SPDX-License-Identifier: GPL-3.0-or-later
// What is still worth photographing for a noise measurement, and what it would gain.
#pragma once

#include <string>
#include <vector>

#include "sensor/noise_report.h"

namespace optrel {

/// Pairs and dark frames of a good measurement.
inline constexpr int wanted_pairs = 8, wanted_darks = 4;

/// Pairs of flat fields that are still worth taking at an ISO: those that a good measurement has more, unless the gain
/// is known within 0.25 percent.
int pairs_to_take(const ReportedIso& iso);
/// The same for dark frames and read noise. Without any, all are.
int darks_to_take(const ReportedIso& iso);

/// A step between two measured ISO settings that is wide enough for one in its middle.
struct WideStep {
    int low = 0, between = 0, high = 0;
};
std::vector<WideStep> wide_steps(const NoiseReport& report);

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
