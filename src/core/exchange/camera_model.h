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

    /// The position of a direction (any length, z > 0 for a pinhole), px in OpenCV's convention.
    Vec2 place(const Vec3& direction) const;
    /// "pinhole, 5 coefficients".
    std::string form() const;
};

/// A camera model fitted to a lens, with its residual over the picture.
struct FittedCamera {
    CameraModel model;
    double rms_px = 0, largest_px = 0;
};

/// Fits a model with this number of coefficients by least squares over the whole frame, green light, one focal length
/// for both axes. Throws Error(input) for an invalid number, and for a pinhole model of a lens that sees 80 degrees or
/// more from its axis.
FittedCamera fit_camera(const FrameMap& lens, bool fisheye, int coefficients);
/// Fits the model with the fewest coefficients whose residual is within `enough` px everywhere; otherwise the closest
/// one.
FittedCamera fit_camera(const FrameMap& lens, bool fisheye, double enough = 0.02);

/// The file storage format of OpenCV, as YAML or JSON: image_width, image_height, camera_matrix,
/// distortion_coefficients, distortion_model, fisheye_model, and the residual of the fit.
std::string camera_to_text(const FittedCamera& camera, bool json, const std::string& note);

/// Reads either format. Throws Error(input) in one sentence for a file that is damaged or incomplete, has an invalid
/// number of coefficients, names an unknown model, or describes a lens that folds inside its picture.
CameraModel camera_from_text(const std::string& text, const std::string& where);

/// A camera model as a lens setting of a profile, for a picture of that many pixels, which may be a scaled version of
/// the model's picture. Models with 4, 5 and 8 coefficients and fisheyes are converted exactly, others by least
/// squares.
struct CameraAsNode {
    ProfileNode node;
    double largest_px = 0;  ///< residual of the profile against the model over the picture
    static constexpr double limit_px = 0.5;
};
/// Two focal lengths become pixels that are not square (LensModel::with_aspect), exactly. Throws Error(input) for a
/// picture of another shape, and for a model that no form represents within the limit.
CameraAsNode node_of_camera(const CameraModel& camera, const PictureGeometry& geometry, const std::string& where);

}  // namespace optrel
