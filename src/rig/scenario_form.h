// SPDX-License-Identifier: GPL-3.0-or-later
// The contents of a scenario file as one table: it checks files, and docs/scenario.schema.json is generated from
// it.
#pragma once

#include <nlohmann/json.hpp>

namespace optrel::rig {

/// Throws Error(input) about the first error: where it is, what is wrong, and what would be right.
void check_scenario(const nlohmann::json& scenario);

/// The same as a JSON schema (draft 2020-12).
nlohmann::ordered_json scenario_schema();

}  // namespace optrel::rig
