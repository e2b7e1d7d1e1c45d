// SPDX-License-Identifier: GPL-3.0-or-later
// The shot plan of a noise measurement: for each ISO, the pairs of flat fields and the dark frames that were taken, and
// those that are still worth taking, with their light and exposure time.
#pragma once

#include <vector>

#include "sensor/noise_report.h"

namespace optrel {

/// One pair of flat fields.
struct NoiseShot {
    double level = 0;       ///< mean of green, from 0 at black to 1 at the white level
    double exposure_s = 0;  ///< 0: not known
    bool taken = false;
};

struct NoiseShots {
    int iso = 0;
    std::vector<NoiseShot> pairs;  ///< ascending by level
    int darks_taken = 0, darks_to_take = 0;
};

/// Levels of light for eight pairs: even steps in EV from 2 to 60 percent of the white level, because read noise shows
/// in the dark and gain in the light.
std::vector<double> wanted_levels();

/// One entry for each ISO, ascending, with what noise_plan() asks for; an ISO in the middle of a wide step is among
/// them, with all shots to take. Missing pairs go to the wanted levels that are farthest from what was taken. Exposure
/// times to take follow from those that were recorded.
std::vector<NoiseShots> noise_shots(const NoiseReport& report);

}  // namespace optrel
