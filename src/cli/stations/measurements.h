// SPDX-License-Identifier: GPL-3.0-or-later
// The commands below "store" for measurements of every kind.
#pragma once

#include <CLI/CLI.hpp>
#include <nlohmann/json.hpp>

#include "store/store.h"

namespace optrel::cli {

/// All versions of all measurements.
nlohmann::json measurement_list(const Store& store);
/// publish-noise, withdraw, make-current.
void add_measurements(CLI::App& store);

}  // namespace optrel::cli
