// SPDX-License-Identifier: GPL-3.0-or-later
// A noise measurement as a JSON document (docs/noise.md).
#pragma once

#include <string>

#include "sensor/noise_run.h"

namespace optrel {

/// `author` and `time` (ISO 8601, UTC) of the measurement stand in the document.
std::string noise_to_json(const NoiseMeasurement& measurement, const std::string& author, const std::string& time);

}  // namespace optrel
