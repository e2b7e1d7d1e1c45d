// SPDX-License-Identifier: GPL-3.0-or-later
// Lens correction that a DNG contains, compared with a measured profile.
#pragma once

#include <optional>

#include "frames/opcodes.h"
#include "studio/development/frame_development.h"

namespace optrel {

struct EmbeddedOpcode {
    int list = 0;  ///< list 1 to 3
    Opcode opcode;
};

struct EmbeddedCorrection {
    std::vector<EmbeddedOpcode> opcodes;
    PictureGeometry geometry;

    bool any() const { return !opcodes.empty(); }
    /// "4 GainMap (optional), WarpRectilinear (required)".
    std::string in_words() const;
};
/// Empty for a frame without one. Throws Error(input) for damaged opcodes.
EmbeddedCorrection embedded_correction(const std::filesystem::path& frame, const Metadata& metadata);

/// Difference between the embedded correction and a profile's over the picture, apart from scale and shift of the whole
/// picture.
struct EmbeddedDifference {
    std::optional<double> rms_px, largest_px;       ///< green, px of the corrected picture; empty: no embedded warp
    std::optional<double> colour_largest_px;        ///< red and blue relative to green
    std::optional<double> falloff_largest_percent;  ///< gain of green; empty: no embedded radial vignetting
};
EmbeddedDifference embedded_difference(const EmbeddedCorrection& embedded, const AppliedProfile& profile);

}  // namespace optrel
