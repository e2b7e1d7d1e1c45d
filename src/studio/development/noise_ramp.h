// SPDX-License-Identifier: GPL-3.0-or-later
// Derives noise reduction from the measured noise of a body: a ramp over ISO for luminance and colour.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "baselines/tier.h"
#include "measurement/measurement.h"
#include "render/noise_need.h"
#include "store/store.h"

namespace optrel {

/// One measured ISO.
struct NoiseRampPoint {
    double iso = 0;
    NoiseNeed need;
    double pinned_luminance = 0, pinned_colour = 0;  ///< what the baseline gives now
    SeenNoise pinned;                                ///< noise and detail with that
};

struct NoiseRamp {
    MeasurementReference measured;
    std::string name;  ///< of the measurement
    std::string body;  ///< id in the register; empty: the measurement is of a model
    std::string model;
    NoiseLimit limit;
    std::vector<NoiseRampPoint> points;  ///< ascending ISO
    Pin luminance, colour;               ///< ramps with the fewest knots, which name the measurement
    Scope scope = Scope::body;           ///< whose tier the ramp belongs into
    std::string reason;                  ///< one sentence: why body or model
    /// True when what is pinned now meets the limit at every ISO with no more than 5 percent too much.
    bool serves_already = false;
    std::vector<double> unreached;  ///< ISO settings at which no strength meets the limit
};

/// Share of the need, and strength, by which a ramp may miss it.
inline constexpr double ramp_share = 0.05, ramp_strength = 1;

/// The need at each measured ISO, with all other fields as `baseline` gives them to a frame of that body. A body whose
/// noise agrees with that of other measured bodies of its model within 3 sigma or 5 percent gets its ramp in the
/// model's tier. Throws Error(input) when the measurement is no noise measurement, or its body is not registered.
NoiseRamp derive_noise_ramp(const Store& store, const Measurement& noise, const Revision& baseline,
                            const NoiseLimit& limit, Progress& progress);

/// The tier that pin_noise_ramp() fills: its conditions alone.
Tier tier_of(const NoiseRamp& ramp);
/// Pins both ramps in the tier of their scope, which is added when there is none. Returns the id of the tier.
std::string pin_noise_ramp(Revision& draft, const NoiseRamp& ramp);

}  // namespace optrel
