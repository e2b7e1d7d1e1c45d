// SPDX-License-Identifier: GPL-3.0-or-later
// Defect maps as a kind of measurement: their subject is a body.
#pragma once

#include <string>

#include "measurement/kind.h"
#include "sensor/defect_map.h"

namespace optrel {

std::string defects_to_json(const DefectMap& map);
/// Throws Error(input) about `where`.
DefectMap defects_from_json(const std::string& document, const std::string& where);

const MeasurementKind& defect_kind();

}  // namespace optrel
