// SPDX-License-Identifier: GPL-3.0-or-later
// Imports a camera model of another program as a profile for a frame's lens.
#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include "base/output.h"
#include "optics/compare_profiles.h"
#include "studio/development/frame_development.h"

namespace optrel {

/// Optrel's own files name Optrel in their part "written_by".
const OutputFormat& camera_output();

struct CameraFile {
    Profile profile;
    std::string model;                            ///< "pinhole, 5 coefficients"
    double followed_px = 0;                       ///< deviation of the profile from the model over the picture
    std::optional<ProfileDifference> difference;  ///< deviation from the profile that the frame is developed with
    std::string in_use;                           ///< name of that profile; "none"

    /// Several lines of text.
    std::string in_words() const;
};

/// Reads a camera model for the camera and lens of a frame. Throws as camera_from_text(), node_of_camera() and
/// profile_of_frame() do.
CameraFile profile_of_camera_file(const std::filesystem::path& file, const std::filesystem::path& frame,
                                  const FrameDevelopment& development, const std::string& author);

}  // namespace optrel
