// SPDX-License-Identifier: GPL-3.0-or-later
// Telling of sample frames before and after.
#pragma once

#include <nlohmann/json.hpp>

#include "studio/rollout/samples.h"

namespace optrel::cli {

/// Prints a line of it unless `quiet`, and gives it as JSON; what is wrong with one goes to the error output.
nlohmann::json tell_sample(const Sample& sample, bool quiet);

}  // namespace optrel::cli
