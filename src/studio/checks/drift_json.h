// SPDX-License-Identifier: GPL-3.0-or-later
// Result of a sidecar check as a document; paths as the store keeps them.
#pragma once

#include <nlohmann/json.hpp>

#include "studio/checks/drift.h"

namespace optrel {

nlohmann::json drift_json(const Store& store, const DriftReport& report);
/// Adds a document to a report. Throws Error(input) for an unknown kind, and the exceptions of the JSON library for an
/// invalid document.
void add_drift(DriftReport& report, const Store& store, const nlohmann::json& document);

}  // namespace optrel
