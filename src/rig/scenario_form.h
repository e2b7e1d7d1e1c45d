// SPDX-License-Identifier: GPL-3.0-or-later
// What a scenario file may hold, in one table: files are checked by it, and docs/scenario.schema.json is written from
// it.
#pragma once

#include <nlohmann/json.hpp>

namespace optrel::rig {

/// Throws Error(input) with the first thing that is wrong: where it stands, what is wrong with it, what would be right.
void check_scenario(const nlohmann::json& scenario);

/// The same as a JSON schema (draft 2020-12).
nlohmann::ordered_json scenario_schema();

}  // namespace optrel::rig
