// SPDX-License-Identifier: GPL-3.0-or-later
// The correction that a DNG carries of its own, beside what was measured of its lens.
#pragma once

#include <optional>

#include "frames/opcodes.h"
#include "studio/frame_development.h"

namespace optrel {

struct EmbeddedOpcode {
    int list = 0;  ///< 1 to 3
    Opcode opcode;
};

struct EmbeddedCorrection {
    std::vector<EmbeddedOpcode> opcodes;
    PictureGeometry geometry;

    bool any() const { return !opcodes.empty(); }
    /// "4 GainMap (optional), WarpRectilinear (required)".
    std::string in_words() const;
};
/// Empty for a frame that carries none. Throws Error(input) for opcodes that are damaged.
EmbeddedCorrection embedded_correction(const std::filesystem::path& frame, const Metadata& metadata);

/// How far the embedded correction lies from a profile's, over the picture. An embedded warp may scale and shift the
/// picture as a whole, which is no difference.
struct EmbeddedDifference {
    std::optional<double> rms_px, largest_px;  ///< of green, px of the corrected picture; empty: no warp is embedded
    std::optional<double> colour_largest_px;   ///< of red and blue against green
    std::optional<double> falloff_largest_percent;  ///< of the gain of green; empty: no radial falloff is embedded
};
EmbeddedDifference embedded_difference(const EmbeddedCorrection& embedded, const AppliedProfile& profile);

}  // namespace optrel
