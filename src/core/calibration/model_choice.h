// SPDX-License-Identifier: GPL-3.0-or-later
// Which lens model, with how many terms, and whether the chart is flat: decided by frames that the solve did not see.
#pragma once

#include <optional>
#include <vector>

#include "calibration/solve.h"

namespace optrel {

/// How well a solution predicts frames that it did not see: four groups are left out in turn, and each is judged, pose
/// apart, with a lens solved from the others.
struct HeldOut {
    double rms_px = 0;    ///< over both axes together
    double weighted = 0;  ///< mean square of the residuals in sigmas, each bounded at 5; what models are compared by
    std::vector<double> by_view;  ///< the same for each view

    /// Whether a larger model is worth its terms: its `weighted` is less than 0.99 times the smaller one's; or, with
    /// six views or more, less than 0.9995 times, where the mean gain over the views is more than three of its standard
    /// errors. A rule of thumb, no test of a hypothesis: views share the lenses that judge them.
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
    std::optional<LensModelKind> kind;  ///< overrules the choice of the kind
    int radial_terms = 0;               ///< overrules the choice of the number of terms, with a kind
};

/// Throws Error(usage) for a number of terms that the model does not have (LensForm::term_choices).
void check_wish(const ModelRequest& wish);

struct ModelChoice {
    LensSolution lens;
    std::vector<View> views;
    HeldOut unseen;
    std::vector<ModelTrial> trials;
};

/// Solves with the models that could serve lenses of this angle, from `first` on (fisheye models only where the
/// residuals say that the others do not follow the lens), and takes the smallest one unless a larger predicts unseen
/// frames better (HeldOut::predicts_better_than): a term that the frames do not need runs away where nobody measured.
/// The board's shape is then freed, and kept free on the same condition.
ModelChoice choose_model(const std::vector<View>& views, const PictureGeometry& geometry, const LensSolution& first,
                         const ModelRequest& wish, const Progress& progress);

/// The model of another kind that comes nearest to a model, out to an angle (radians) from the axis; least squares on
/// the radius.
LensModel converted(const LensModel& model, LensModelKind kind, int radial_terms, double angle);

}  // namespace optrel
