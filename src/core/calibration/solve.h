// SPDX-License-Identifier: GPL-3.0-or-later
// From corner observations to a lens: focal length, optical centre, distortion and one pose for each view (Zhang 2000
// for the setting). The noise beyond the corners' own covariances is estimated from the residuals, and wrong corners
// are rejected.
#pragma once

#include <optional>
#include <vector>

#include "base/progress.h"
#include "calibration/bundle.h"

namespace optrel {

struct SolveStart {
    double focal_px = 0;  ///< 0: unknown, several values are tried
    /// A solution to start from; its model kind, number of radial terms and board_free are kept.
    std::optional<LensSolution> previous;
};

/// Solves in place: poses, residuals and rejections of the views are updated. Without a previous solution it tries a
/// radial-tangential lens of three terms, or a fisheye where that fits far better. Throws Error(input) when fewer than
/// three views or 60 points are given, or when nothing plausible fits.
LensSolution solve_lens(std::vector<View>& views, const PictureGeometry& geometry, const SolveStart& start,
                        const Progress& progress);

/// Adds the covariance to a solution that is kept; solve_lens() omits it because it takes longer than the
/// solve.
void add_covariance(const std::vector<View>& views, LensSolution& lens, const PictureGeometry& geometry);

/// RMS per axis (px) of the part that the residuals of all views have in common in cells of the picture, beyond what
/// their own spread explains. It is the error of the model.
double common_residual_px(const std::vector<View>& views, const PictureGeometry& geometry);

/// Solves only the pose of a view for a known lens, and its residuals. Used to judge frames that a solve did not see.
void solve_pose(View& view, const LensSolution& lens);

}  // namespace optrel
