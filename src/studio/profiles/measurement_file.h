// SPDX-License-Identifier: GPL-3.0-or-later
// Publishing a measurement that was written to a file.
#pragma once

#include <string>

#include "measurement/kind.h"
#include "store/store.h"

namespace optrel {

/// Publishes a document as the next version for its subject. Id and version in the file are ignored. Throws
/// Error(input) when the store has the same measurement already, and as StoredMeasurements::publish() does.
Measurement take_in_measurement(Store& store, const MeasurementKind& kind, const std::string& document,
                                OtherSettings others);

}  // namespace optrel
