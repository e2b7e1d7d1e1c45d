#include "optics/lens_model_fit.h"

#include <Eigen/QR>
#include <cmath>

namespace optrel {

LensModel fit_radial(LensModelKind kind, const std::vector<int>& free, const std::function<double(double)>& bent_radius, double angle) {
    constexpr int samples = 80;
    Eigen::MatrixXd rows(samples, free.size());
    Eigen::VectorXd right(samples);
    for (int i = 0; i < samples; ++i) {
        const double theta = angle * (i + 1) / samples, tangent = std::tan(theta);
        const double t = kind == LensModelKind::equidistant ? theta : tangent, q = t * t, ratio = bent_radius(tangent) / t;
        right(i) = t * (ratio - 1);
        for (std::size_t k = 0; k < free.size(); ++k) {
            // Rational: ratio (1 + k4 q + ...) = 1 + k1 q + ..., which is linear in all of them.
            const bool below = kind == LensModelKind::rational && free[k] >= 3;
            rows(i, static_cast<Eigen::Index>(k)) = t * std::pow(q, (below ? free[k] - 3 : free[k]) + 1) * (below ? -ratio : 1);
        }
    }
    const Eigen::VectorXd solved = rows.colPivHouseholderQr().solve(right);
    LensModel::Coefficients c = LensModel::Coefficients::Zero(coefficient_count(kind));
    for (std::size_t k = 0; k < free.size(); ++k) c[free[k]] = solved(static_cast<Eigen::Index>(k));
    return LensModel(kind, c);
}

}  // namespace optrel
