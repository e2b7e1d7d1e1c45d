// SPDX-License-Identifier: GPL-3.0-or-later
// Finds the measurements of a frame's body and lens.
#pragma once

#include <vector>

#include "baselines/resolver.h"
#include "fleet/fleet.h"
#include "measurement/measurement.h"

namespace optrel {

class Store;

/// Current measurements of all kinds that pins can be derived from.
std::vector<Measurement> current_measurements(const Store& store);

/// References to those of `current` whose subject is the body, the body's model, the lens copy or the lens model of a
/// frame with these facts. An assumed body counts as its model only.
std::vector<MeasurementReference> measured_facts(const FrameFacts& facts, const Fleet& fleet,
                                                 const std::vector<Measurement>& current);

/// How many frames of a store are of the subject of a measurement.
int frames_measured_by(const Store& store, const Measurement& measurement);

}  // namespace optrel
