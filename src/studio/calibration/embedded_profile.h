// SPDX-License-Identifier: GPL-3.0-or-later
// Converts the lens correction of a DNG into a profile, marked as embedded. It is never used automatically, only by
// assignment.
#pragma once

#include "studio/development/embedded_correction.h"

namespace optrel {

struct EmbeddedProfile {
    Profile profile;  ///< unpublished
    /// Deviation of the profile from the opcodes over the picture: px for green, red and blue, percent for the gain;
    /// empty where the opcodes have no such part.
    std::optional<double> largest_px, largest_percent;
    std::vector<std::string> left_out;  ///< names of opcodes that a profile cannot represent

    /// "A profile follows it to 0.004 px and 0.02 %."
    std::string followed() const;
};

/// Profile from warp and radial vignetting of the opcodes, at the frame's lens setting; the scale of the warp becomes
/// part of the focal length. Throws Error(input) when the frame has neither, when its lens is unknown, and for opcodes
/// that mirror, fold or miss the picture or give negative light.
EmbeddedProfile profile_embedded(const std::filesystem::path& frame, const Metadata& metadata,
                                 const EmbeddedCorrection& embedded, const std::string& author);

/// The same, compared with the profile that the frame is developed with.
struct EmbeddedComparison {
    EmbeddedCorrection carried;
    EmbeddedProfile made;
    std::optional<EmbeddedDifference> difference;  ///< empty: the frame has no profile
    std::string profile;                           ///< name of the profile

    /// Several lines of text.
    std::string in_words() const;
};
/// Throws as reading the opcodes and making the profile do.
EmbeddedComparison compare_carried(const std::filesystem::path& frame, const FrameDevelopment& development,
                                   const std::string& author);

}  // namespace optrel
