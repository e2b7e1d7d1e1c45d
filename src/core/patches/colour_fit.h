// SPDX-License-Identifier: GPL-3.0-or-later
// From the colours that a body recorded to those of the reference: a matrix, or a root-polynomial form (Finlayson,
// Mackiewicz, Hurlbert 2015, "Color correction using root-polynomial regression"), which does not depend on exposure
// either; and a correction by hue and saturation on top of either. All keep white.
#pragma once

#include <Eigen/Core>
#include <opencv2/core.hpp>
#include <optional>
#include <string>
#include <vector>

#include "patches/chart_file.h"
#include "patches/hue_correction.h"
#include "patches/measured_patches.h"

namespace optrel {

/// Balanced camera values (a perfect diffuser gives 1, 1, 1) to XYZ for D50.
class ColourForm {
public:
    enum class Kind { matrix, root_polynomial };
    ColourForm() = default;
    ColourForm(Kind kind, const Eigen::MatrixXd& weights) : kind_(kind), weights_(weights) {}

    Kind kind() const { return kind_; }
    bool is_matrix() const { return kind_ == Kind::matrix && !hues_; }
    /// "matrix", "root-polynomial", or one of them with "+hue-table".
    std::string name() const;
    ColourForm with(const HueCorrection& hues) const {
        ColourForm out = *this;
        out.hues_ = hues;
        return out;
    }
    cv::Vec3d operator()(const cv::Vec3d& balanced) const;
    /// The linear part. The whole of a matrix form.
    cv::Matx33d matrix() const;
    /// Noise of linear sRGB over that of the balanced camera values, for a grey: root of the mean of the three squares.
    double noise_amplification() const;

    /// r, g, b; for the root-polynomial form also the roots of rg, gb and rb.
    static Eigen::VectorXd terms(Kind kind, const cv::Vec3d& balanced);

private:
    Kind kind_ = Kind::matrix;
    Eigen::MatrixXd weights_ = Eigen::MatrixXd::Identity(3, 3);  ///< 3 rows, a column for each term
    std::optional<HueCorrection> hues_;
};

struct PatchError {
    int patch = 0;  ///< in the order of the chart
    double de2000 = 0;
};

struct ColourFit {
    ColourForm form;
    std::array<double, 3> neutral{};  ///< camera values of a perfect diffuser in this light, share of the white level
    std::array<double, 3> neutral_sigma{};
    /// The neutral with green 1.
    std::array<double, 3> balance() const { return {neutral[0] / neutral[1], 1, neutral[2] / neutral[1]}; }
    /// Of red and blue over green, relative: light that falls off across the chart does not enter it.
    std::array<double, 3> balance_sigma{};
    std::vector<PatchError> errors;  ///< of the patches that were used
    double mean = 0, p95 = 0, largest = 0;
    double held_out_mean = 0;                   ///< of patches that the fit did not see
    double other_held_out_mean = 0;             ///< of the form that was not chosen; 0: it was not tried
    std::vector<std::pair<int, double>> glare;  ///< patches that were left out as too bright for their colour, dE2000
    std::vector<int> greys;                     ///< patches that the neutral was taken from
    double grey_spread = 0;                     ///< of their red and blue against green, relative, one sigma
};

/// Fits the patches that are used. The form is the matrix unless the error of the root-polynomial form on patches that
/// it did not see is smaller by 5 percent and by twice the standard error of the difference; a hue
/// table is then added to the chosen form by the same rule. Throws Error(input) when there are fewer than 8 patches, or
/// no greys among them.
ColourFit fit_colours(const PatchChart& chart, const std::vector<MeasuredPatch>& patches);

}  // namespace optrel
