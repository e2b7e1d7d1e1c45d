// SPDX-License-Identifier: GPL-3.0-or-later
// Views of a flat board, and the adjustment of lens, board and poses to them. Bundle adjustment (Triggs et
// al. 2000) by Ceres. The residual of a corner is weighted by its own covariance plus a floor for errors
// that the corner fit cannot know (paper, air, the model itself); Huber's loss limits the influence of
// wrong corners.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "optics/coordinates.h"
#include "optics/lens_model.h"

#include <Eigen/Core>

namespace optrel {

struct ViewPoint {
    Vec2 board_mm;               ///< on the chart, any origin
    Vec2 uv;                     ///< green, px
    Eigen::Matrix2d covariance;  ///< px^2
    bool rejected = false;
    bool by_hand = false;          ///< rejected by a person, permanently
    Vec2 residual = Vec2::Zero();  ///< observed - predicted, px
};

/// A board placed before the camera: rotation vector and translation (mm), board to camera.
struct Pose {
    Vec3 rotation = Vec3::Zero();
    Vec3 translation = Vec3::Zero();

    Eigen::Matrix3d matrix() const;
};

struct View {
    std::string name;
    std::vector<ViewPoint> points;
    Pose pose;
    double rms_px = 0;  ///< over accepted points, both axes together

    double tilt_degrees() const;
};

/// How the printed chart differs from a flat one of square squares: a point (x, y) lies at (x, y (1 + stretch_y), z),
/// with z = (bow_xx x^2 + bow_xy x y + bow_yy y^2) / L, L = 200 mm. A change of the origin only tilts and moves the
/// surface, which poses absorb, so a plain board of unknown origin has a bow all the same.
struct BoardShape {
    static constexpr double length_mm = 200;
    double stretch_y = 0, bow_xx = 0, bow_xy = 0, bow_yy = 0;

    bool flat() const { return stretch_y == 0 && bow_xx == 0 && bow_xy == 0 && bow_yy == 0; }
    Vec3 place(const Vec2& p) const {
        return {p.x(), p.y() * (1 + stretch_y),
                (bow_xx * p.x() * p.x() + bow_xy * p.x() * p.y() + bow_yy * p.y() * p.y()) / length_mm};
    }
};

struct LensSolution {
    double focal_px = 0;
    Vec2 centre_px = Vec2::Zero();
    LensModel model;
    int radial_terms = 3;  ///< free radial terms of the distortion, one of the form's term_choices()
    BoardShape board;
    bool board_free = false;     ///< the shape of the board was solved too
    Eigen::MatrixXd covariance;  ///< of (F px, cx px, cy px, model coefficients)
    BoardShape board_sigma;      ///< one sigma of the board's shape
    double rms_px = 0;
    int points = 0;
    double floor_px = 0;  ///< noise that the covariances of the corners do not explain

    Vec2 project(const Pose& pose, const Vec2& board_mm) const;
};

struct AdjustOptions {
    double floor_px = 0.02;
    int iterations = 60;
    bool lens_fixed = false;
    bool centre_fixed = false;
    bool decentring_fixed = false;
    bool covariance =
        false;  ///< also compute the covariance of the lens, with one more radial term than it uses: see adjust()
    double next_term_sigma = 0;  ///< prior sigma of the omitted term, for the covariance; 0: none
    double precision = 1e-10;    ///< relative change of the cost at which iteration ends
    int points_per_view = 0;     ///< 0: all; otherwise about this many, evenly chosen
};

/// Priors of every adjustment, in addition to the corners. Each is normal about zero with this sigma, and counts as one
/// observation in the cost and in the covariance.
struct LensPriors {
    // Priors of the coefficients are in LensForm::prior_sigma(). Only radial coefficients of a quotient have one,
    // because its two polynomials trade against each other.
    static constexpr double stretch =
        0.01;                            ///< of the board, when its shape is free: paper stretches by a percent at most
    static constexpr double bow = 0.05;  ///< bow_xx, bow_xy and bow_yy of the board, when its shape is free
    static constexpr double huber_sigmas = 2.5;  ///< corners with larger residuals (in sigmas) have constant influence
    /// The covariance is scaled by the mean square of the residuals in sigmas, but at least by this
    /// factor.
    static constexpr double least_inflation = 0.1;
};

/// One adjustment from where lens and poses stand; residuals of all points are set. Returns the robust cost over the
/// degrees of freedom (residuals less unknowns), or nothing when no usable lens came of it; lens and views then stand
/// where they stood. Thread-safe on views of its own.
///
/// The covariance counts the first radial term that the model leaves out as unknown: that the frames did not ask for it
/// does not say that it is zero where they show nothing, and it is what the uncertainty beyond the covered field is
/// made of.
[[nodiscard]] std::optional<double> adjust(std::vector<View>& views, LensSolution& lens, const Vec2& middle_px,
                                           const AdjustOptions& options);

/// The residual (in sigmas) of one corner for parameters as the adjustment holds them, and its derivatives, row by row:
/// for tests, which check the derivatives by differences. `lens`: F / focal, (centre - middle) / focal, coefficients;
/// `board`: as in BoardShape; `pose`: rotation, translation.
struct CornerDerivatives {
    Vec2 residual;
    Eigen::MatrixXd by_lens, by_board, by_pose;
};
std::optional<CornerDerivatives> corner_derivatives(LensModelKind kind, const ViewPoint& point, double focal_px,
                                                    const Vec2& middle_px, const Eigen::VectorXd& lens,
                                                    const Eigen::Vector4d& board, const Eigen::VectorXd& pose);

/// Computes residuals and RMS of a view for a lens.
void set_residuals(View& view, const LensSolution& lens);

/// Inverse square root of a corner's covariance with the floor added; multiplies a residual to give sigmas.
Eigen::Matrix2d information_root(const Eigen::Matrix2d& covariance, double floor_px);

}  // namespace optrel
