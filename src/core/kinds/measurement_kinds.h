// SPDX-License-Identifier: GPL-3.0-or-later
// All kinds of measurements. A new kind is a folder with its science and one row here.
#pragma once

#include <string>
#include <vector>

#include "measurement/kind.h"

namespace optrel {

const std::vector<const MeasurementKind*>& measurement_kinds();

/// True when values of a baseline can be derived from measurements of a kind.
bool pins_may_follow(const MeasurementKind& kind);

/// Null for a text that is the id of no kind.
const MeasurementKind* find_measurement_kind(const std::string& id);

}  // namespace optrel
