// SPDX-License-Identifier: GPL-3.0-or-later
// The start "as recorded": the camera's own settings as values of fields.
#pragma once

#include <vector>

#include "baselines/pin.h"

namespace optrel {

/// Settings in the standard metadata, as small integers; -1: not recorded.
struct Recorded {
    signed char contrast = -1;    ///< Exif tag Contrast: 0 normal, 1 soft, 2 hard
    signed char saturation = -1;  ///< Exif tag Saturation: 0 normal, 1 low, 2 high
    signed char sharpness = -1;   ///< Exif tag Sharpness: 0 normal, 1 soft, 2 hard
    bool rendering = false;       ///< a DNG's tone curve or baseline exposure is embedded

    bool operator==(const Recorded& o) const {
        return contrast == o.contrast && saturation == o.saturation && sharpness == o.sharpness &&
               rendering == o.rendering;
    }
    bool any() const { return contrast >= 0 || saturation >= 0 || sharpness >= 0 || rendering; }
};

/// The fields that the metadata set:
///     contrast    soft -25, normal 0, hard 25
///     saturation  low -25, normal 0, high 25
///     sharpness   soft 10, normal 25, hard 60 percent of sharpening
///     rendering   as recorded, where the file embeds one
/// The Exif standard (2.32, JEITA CP-3451X) defines the words and leaves the amounts to the reader.
std::vector<std::pair<Field, Value>> values_of(const Recorded& recorded);

}  // namespace optrel
