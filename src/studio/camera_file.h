// SPDX-License-Identifier: GPL-3.0-or-later
// A camera model that another program wrote, taken in as a profile of a frame's lens.
#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include "base/output.h"
#include "optics/compare_profiles.h"
#include "studio/frame_development.h"

namespace optrel {

/// Ours: says Optrel in its part "written_by".
const OutputFormat& camera_output();

struct CameraFile {
    Profile profile;
    std::string model;                            ///< "pinhole, 5 coefficients"
    double followed_px = 0;                       ///< what the profile misses of the model over the picture
    std::optional<ProfileDifference> difference;  ///< from the profile that the frame is developed with
    std::string in_use;                           ///< its name; "none"

    /// Some lines, each with its end.
    std::string in_words() const;
};

/// Reads the model for the camera and lens of a frame. Throws Error as camera_from_text(), node_of_camera() and
/// profile_of_frame() do.
CameraFile profile_of_camera_file(const std::filesystem::path& file, const std::filesystem::path& frame,
                                  const FrameDevelopment& development, const std::string& author);

}  // namespace optrel
