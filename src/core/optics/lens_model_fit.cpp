// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/lens_model_fit.h"

#include <Eigen/QR>
#include <algorithm>
#include <cmath>

namespace optrel {

LensModel fit_radial(LensModelKind kind, const std::vector<int>& free, const std::function<double(double)>& bent_radius,
                     double angle) {
    constexpr int samples = 80;
    constexpr double farthest = 1.45;  // radians; beyond, a tangent says too little
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
    const Eigen::VectorXd solved = rows.colPivHouseholderQr().solve(right);
    LensModel::Coefficients c = LensModel::Coefficients::Zero(kind->coefficient_count());
    for (std::size_t k = 0; k < free.size(); ++k) c[free[k]] = solved(static_cast<Eigen::Index>(k));
    return LensModel(kind, c);
}

LensModel from_shifted_axis(LensModelKind kind, const LensModel::Coefficients& c, double radius) {
    LensModel fitted(kind, c);
    if (kind->angular() || c.tail<2>().isZero()) return fitted;
    const LensModel untilted(kind, [&] {
        LensModel::Coefficients without = c;
        without.tail<2>().setZero();
        return without;
    }());
    const Vec2 axis = c.tail<2>();
    std::vector<Vec2> at;
    for (int ring = 1; ring <= 8; ++ring)
        for (int k = 0; k < 16; ++k)
            at.push_back(radius * ring / 8 * Vec2(std::cos(k * 0.3926991), std::sin(k * 0.3926991)));
    const int n = static_cast<int>(at.size());
    const auto misses = [&](const LensModel& model) {
        Eigen::VectorXd out(2 * n);
        for (int i = 0; i < n; ++i)
            out.segment<2>(2 * i) = axis + untilted.bend(Vec2(at[i] - axis)) - model.bend(at[i]);
        return out;
    };
    // Only the decentring has to change; the radial terms stay.
    for (int round = 0; round < 5; ++round) {
        Eigen::MatrixXd j(2 * n, 4);
        const Eigen::VectorXd r = misses(fitted);
        for (int k = 0; k < 4; ++k) {
            LensModel::Coefficients moved = fitted.coefficients();
            moved[moved.size() - 4 + k] += 1e-6;
            j.col(k) = (r - misses(LensModel(kind, moved))) / 1e-6;
        }
        LensModel::Coefficients next = fitted.coefficients();
        next.tail<4>() += j.colPivHouseholderQr().solve(r);
        if (!next.allFinite()) break;
        fitted = LensModel(kind, next);
    }
    return fitted;
}

}  // namespace optrel
