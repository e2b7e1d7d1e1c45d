// SPDX-License-Identifier: GPL-3.0-or-later
// Proposes the fewest pins that make bodies of a store render alike, from their published colour measurements.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "baselines/tier.h"
#include "measurement/measurement.h"
#include "patches/alike.h"
#include "store/store.h"

namespace optrel {

struct AlikeRequest {
    std::string reference;            ///< id of a body; empty: the chart's own values
    std::vector<std::string> bodies;  ///< ids
    AlikeLimit limit;
    double kelvin = 5003;  ///< of the light that counts, where a body was measured in several
};

struct BodyAlike {
    std::string body;               ///< id
    MeasurementReference measured;  ///< of the body's colours
    double kelvin = 0;
    std::vector<AlikePins> by_iso;
    std::vector<AlikeSpan> spans;
    /// The body sees infrared (by its condition in the register, or because no fit comes near the chart): its colours
    /// are outside those of a chart, so only exposure and neutral are proposed.
    bool outside_chart = false;
};

struct AlikeResult {
    std::vector<BodyAlike> bodies;
    /// Of all bodies against one another, at their lowest ISO, with their pins; against the reference alone when there
    /// is one other body.
    Spread before, after;
    std::vector<std::string> problems;  ///< one sentence for each body that is left out
};

/// Throws Error(input) when the reference has no colour measurement, or when no body can be compared with it.
AlikeResult propose_alike(const Store& store, const AlikeRequest& request);

/// Creates the colour file of a body, stores it, and returns the value of the field colour_source that selects it;
/// empty when the body needs no file. `reference`: id of the body that it matches; empty: the chart.
std::optional<Value> put_colour_file(Store& store, const BodyAlike& body, const std::string& reference,
                                     const std::string& author);

/// Pins exposure, warmth and tint in the body's own tier, as ramps where they change with ISO, and the colour file
/// where there is one; the pins name the measurement.
void pin_alike(Revision& draft, const BodyAlike& body, const std::optional<Value>& colour_file);

}  // namespace optrel
