// SPDX-License-Identifier: GPL-3.0-or-later
// A lens in the camera model of OpenCV (its documentation, modules calib3d and fisheye), for programs that compute with
// cameras, and such a file taken in again.
//
//   pinhole   4, 5, 8, 12 or 14 coefficients: k1, k2, p1, p2 [, k3 [, k4, k5, k6 [, s1, s2, s3, s4 [, tx, ty]]]]
//   fisheye   4 coefficients: k1, k2, k3, k4 over the angle
//
// Places count from the middle of the first pixel, half a pixel less than here everywhere else.
#pragma once

#include <string>
#include <vector>

#include "optics/frame_map.h"

namespace optrel {

struct CameraModel {
    int width = 0, height = 0;
    double fx = 0, fy = 0, cx = 0, cy = 0;
    bool fisheye = false;
    std::vector<double> coefficients;

    /// Where a direction (any length, z > 0 for a pinhole) falls, px as OpenCV counts.
    Vec2 place(const Vec3& direction) const;
    /// "pinhole, 5 coefficients".
    std::string form() const;
};

/// The model that follows a lens, and how closely over the picture.
struct FittedCamera {
    CameraModel model;
    double rms_px = 0, largest_px = 0;
};

/// With so many coefficients, by least squares over the whole frame, green light, one focal length for both axes.
/// Throws Error(input) for a number that there is not, and for a pinhole of a lens that sees 80 degrees or more from
/// its axis.
FittedCamera fit_camera(const FrameMap& lens, bool fisheye, int coefficients);
/// With the fewest coefficients that follow within `enough` px everywhere; where none does, the closest.
FittedCamera fit_camera(const FrameMap& lens, bool fisheye, double enough = 0.02);

/// OpenCV's own file storage, as YAML or as JSON: image_width, image_height, camera_matrix, distortion_coefficients,
/// distortion_model, fisheye_model, and how closely it follows.
std::string camera_to_text(const FittedCamera& camera, bool json, const std::string& note);

/// Reads either. Throws Error(input) in one sentence for what is damaged, lacks a part, has another number of
/// coefficients, names a model that is neither, or says a lens that folds inside its picture.
CameraModel camera_from_text(const std::string& text, const std::string& where);

/// Such a model as a lens setting of a profile over a picture of that many pixels, which may be larger or smaller than
/// the model's by one factor: 4, 5 and 8 coefficients and fisheyes exactly, others by least squares.
struct CameraAsNode {
    ProfileNode node;
    double largest_px = 0;  ///< what the profile misses of the model over the picture
    static constexpr double limit_px = 0.5;
};
/// Two focal lengths in px are those of pixels that are not square (LensModel::with_aspect), exactly. Throws
/// Error(input) for a picture of another shape, and for a model that no form here follows within the limit.
CameraAsNode node_of_camera(const CameraModel& camera, const PictureGeometry& geometry, const std::string& where);

}  // namespace optrel
