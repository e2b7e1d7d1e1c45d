// From corner observations to a lens: focal length, optical centre, distortion and one pose for each view.
//
// Bundle adjustment (Zhang 2000 for the setting) by Ceres. Each corner is weighted by its own covariance plus a floor for what
// the fit cannot know (paper, air, the model itself); the floor is estimated from the residuals. Huber's loss and one pass of
// rejection keep wrong corners out.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "optics/coordinates.h"
#include "optics/lens_model.h"

#include <Eigen/Core>

namespace optrel {

struct ViewPoint {
    Vec2 board_mm;                ///< on the chart, any origin
    Vec2 uv;                      ///< green, px
    Eigen::Matrix2d covariance;   ///< px^2
    bool rejected = false;
    Vec2 residual = Vec2::Zero(); ///< observed - predicted, px; set by solve_lens()
};

/// A board placed before the camera: rotation vector and translation (mm), board to camera.
struct Pose {
    Vec3 rotation = Vec3::Zero();
    Vec3 translation = Vec3::Zero();
};

struct View {
    std::string name;
    std::vector<ViewPoint> points;
    Pose pose;
    double rms_px = 0;  ///< over accepted points, both axes together

    double tilt_degrees() const;
};

struct LensSolution {
    double focal_px = 0;
    Vec2 centre_px = Vec2::Zero();
    LensModel model;
    Eigen::MatrixXd covariance;  ///< of (F px, cx px, cy px, coefficients)
    double rms_px = 0;
    int points = 0;
    int radial_terms = 3;        ///< of the distortion that were free
    double floor_px = 0;         ///< the part of the noise that the corners' own covariances do not explain
};

struct SolveStart {
    double focal_px = 0;  ///< 0: unknown, several are tried
    std::optional<LensSolution> previous;
    int radial_terms = 3;  ///< 2 holds k3 at zero
};

/// Solves in place: poses, residuals and rejections of the views are updated. Throws Error(input) when fewer than three
/// views or 60 points are given, or when nothing plausible fits.
LensSolution solve_lens(std::vector<View>& views, const PictureGeometry& geometry, const SolveStart& start, const Progress& progress);

/// Finds only the pose of a view for a known lens, and its residuals. Used to judge on frames that a solve did not see.
void solve_pose(View& view, const LensSolution& lens);

/// RMS over frames that were left out in turn (four groups), each judged with a lens solved from the others.
double held_out_rms_px(const std::vector<View>& views, const PictureGeometry& geometry, const LensSolution& solution, const Progress& progress);

}  // namespace optrel
