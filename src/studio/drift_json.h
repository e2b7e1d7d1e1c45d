// SPDX-License-Identifier: GPL-3.0-or-later
// What a check of sidecars found, as a document that any station reads: paths as the store keeps them.
#pragma once

#include <nlohmann/json.hpp>

#include "studio/drift.h"

namespace optrel {

nlohmann::json drift_json(Store& store, const DriftReport& report);
/// Adds what a document says to a report. Throws Error(input) for a kind that this version does not know, and what the
/// library throws for what is no such document.
void add_drift(DriftReport& report, Store& store, const nlohmann::json& document);

}  // namespace optrel
