// SPDX-License-Identifier: GPL-3.0-or-later
// Chooses the lens model, its number of terms, and whether the chart is flat, by the prediction of frames that the
// solve did not see.
#pragma once

#include <optional>
#include <vector>

#include "calibration/solve.h"

namespace optrel {

/// Quality of prediction: four groups of frames are left out in turn. Each is judged with a lens solved from the
/// others; only its poses are solved.
struct HeldOut {
    double rms_px = 0;    ///< over both axes together
    double weighted = 0;  ///< mean square of the residuals in sigmas, each bounded at 5; models are compared by it
    std::vector<double> by_view;  ///< the same for each view

    /// True when a larger model is worth its terms: its `weighted` is less than 0.99 times that of the smaller one; or,
    /// with six views or more, less than 0.9995 times, when the mean gain over the views exceeds three standard errors.
    /// This is a rule of thumb, not a test of a hypothesis, because the views share the lenses that judge them.
    bool predicts_better_than(const HeldOut& smaller) const;
};
HeldOut held_out(const std::vector<View>& views, const PictureGeometry& geometry, const LensSolution& solution,
                 double floor_px, const Progress& progress);

/// One model that was tried.
struct ModelTrial {
    LensModelKind kind;
    int radial_terms;
    bool board_free;
    double rms_px;
    HeldOut unseen;
    bool taken = false;

    std::string name() const;  ///< "radial-tangential, 3 terms"
};

struct ModelRequest {
    std::optional<LensModelKind> kind;  ///< overrides the choice of the kind
    int radial_terms = 0;               ///< overrides the choice of the number of terms; needs a kind
};

/// Throws Error(usage) for a number of terms that the model does not have (LensForm::term_choices).
void check_wish(const ModelRequest& wish);

struct ModelChoice {
    LensSolution lens;
    std::vector<View> views;
    HeldOut unseen;
    std::vector<ModelTrial> trials;
};

/// Solves with the models that suit lenses of this angle, starting from `first` (fisheye models only when residuals
/// show that the others do not fit). Takes the smallest one unless a larger one predicts unseen frames better
/// (HeldOut::predicts_better_than), because terms that the frames do not determine diverge where nobody measured. Then
/// the shape of the board is solved too, and kept on the same condition.
ModelChoice choose_model(const std::vector<View>& views, const PictureGeometry& geometry, const LensSolution& first,
                         const ModelRequest& wish, const Progress& progress);

/// The model of another kind that is closest to a given one, out to an angle (radians) from the axis, by least squares
/// on the radius.
LensModel converted(const LensModel& model, LensModelKind kind, int radial_terms, double angle);

}  // namespace optrel
