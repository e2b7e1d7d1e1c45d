// SPDX-License-Identifier: GPL-3.0-or-later
// Keeping the correction that a DNG carries as a profile of its lens. It is marked as embedded and never taken by
// itself: it can only be assigned.
#pragma once

#include "studio/embedded_correction.h"

namespace optrel {

struct EmbeddedProfile {
    Profile profile;  ///< not published yet
    /// What the profile's terms miss of the opcodes over the picture: px of green, red and blue, and percent of the
    /// gain; empty where there is no warp, or no radial falloff.
    std::optional<double> largest_px, largest_percent;
    std::vector<std::string> left_out;  ///< opcodes that no profile holds, by their names, each once

    /// "A profile follows it to 0.004 px and 0.02 %."
    std::string followed() const;
};

/// Warp and radial falloff of the opcodes as a profile at the frame's lens setting; a warp's scale goes into the focal
/// length of the picture. Throws Error(input) when the frame carries none of these, when nobody knows its lens, or when
/// the opcodes mirror, fold or miss the picture, or take light below zero.
EmbeddedProfile profile_embedded(const std::filesystem::path& frame, const Metadata& metadata,
                                 const EmbeddedCorrection& embedded, const std::string& author);

/// That, beside the profile that the frame is developed with.
struct CarriedComparison {
    EmbeddedCorrection carried;
    EmbeddedProfile made;
    std::optional<EmbeddedDifference> difference;  ///< empty: no profile corrects the frame
    std::string profile;                           ///< its name, for people

    /// Some lines, each with its end.
    std::string in_words() const;
};
/// Throws as reading the opcodes and making the profile do.
CarriedComparison compare_carried(const std::filesystem::path& frame, const FrameDevelopment& development,
                                  const std::string& author);

}  // namespace optrel
