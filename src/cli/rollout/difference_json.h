// SPDX-License-Identifier: GPL-3.0-or-later
// How the correction that a file carries differs from a profile, as commands print it.
#pragma once

#include <nlohmann/json.hpp>

#include "studio/development/embedded_correction.h"

namespace optrel::cli {

/// Only what could be compared has a key.
inline nlohmann::json difference_json(const EmbeddedDifference& d) {
    nlohmann::json out = nlohmann::json::object();
    const auto tell = [&](const char* key, const std::optional<double>& value) {
        if (value) out[key] = *value;
    };
    tell("rms_px", d.rms_px);
    tell("largest_px", d.largest_px);
    tell("colour_largest_px", d.colour_largest_px);
    tell("falloff_largest_percent", d.falloff_largest_percent);
    return out;
}

}  // namespace optrel::cli
