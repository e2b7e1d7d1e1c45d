// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/lens_model_fit.h"

#include <algorithm>
#include <cmath>

#include "optics/linear.h"

namespace optrel {

LensModel fit_radial(LensModelKind kind, const std::vector<int>& free, const std::function<double(double)>& bent_radius,
                     double angle) {
    constexpr int samples = 80;
    constexpr double farthest = 1.45;  // radians; closer to 90 degrees the tangent becomes too large
    angle = std::min(angle, farthest);
    Eigen::MatrixXd rows(samples, free.size());
    Eigen::VectorXd right(samples);
    for (int i = 0; i < samples; ++i) {
        const double tangent = std::tan(angle * (i + 1) / samples);
        const double plain = kind->plain_radius(kind->parameter(tangent)), ratio = bent_radius(tangent) / plain;
        right(i) = plain * (ratio - 1);
        for (std::size_t k = 0; k < free.size(); ++k)
            rows(i, static_cast<Eigen::Index>(k)) = plain * kind->fit_factor(free[k], plain * plain, ratio);
    }
    const Eigen::VectorXd solved = least_squares(rows, right);
    LensModel::Coefficients c = LensModel::Coefficients::Zero(kind->coefficient_count());
    for (std::size_t k = 0; k < free.size(); ++k) c[free[k]] = solved(static_cast<Eigen::Index>(k));
    return LensModel(kind, c);
}

}  // namespace optrel
