// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/linear.h"

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <Eigen/LU>
#include <Eigen/QR>
#include <stdexcept>

namespace optrel {

Eigen::VectorXd least_squares(const Eigen::MatrixXd& a, const Eigen::VectorXd& b) { return LeastSquares(a).solve(b); }

struct LeastSquares::Factors {
    Eigen::ColPivHouseholderQR<Eigen::MatrixXd> qr;
};
LeastSquares::LeastSquares(const Eigen::MatrixXd& a)
    : factors_(std::make_unique<Factors>(Factors{Eigen::ColPivHouseholderQR<Eigen::MatrixXd>(a)})) {}
LeastSquares::~LeastSquares() = default;
Eigen::MatrixXd LeastSquares::solve(const Eigen::MatrixXd& b) const { return factors_->qr.solve(b); }

SmallVector solve_symmetric(const Eigen::Ref<const Eigen::MatrixXd>& a, const Eigen::Ref<const Eigen::VectorXd>& b) {
    constexpr int most = SmallVector::MaxRowsAtCompileTime;
    if (a.rows() > most || a.cols() != a.rows() || b.size() != a.rows())
        throw std::logic_error("solve_symmetric is for small square matrices");
    const Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, 0, most, most> small = a;
    return small.ldlt().solve(b);
}

Eigen::MatrixXd orthonormal_columns(const Eigen::MatrixXd& a) {
    const Eigen::HouseholderQR<Eigen::MatrixXd> qr(a);
    return qr.householderQ() * Eigen::MatrixXd::Identity(a.rows(), a.cols());
}

Eigen::MatrixXd triangular_factor(const Eigen::MatrixXd& a) {
    const Eigen::HouseholderQR<Eigen::MatrixXd> qr(a);
    return qr.matrixQR().topRows(a.cols()).triangularView<Eigen::Upper>();
}

Eigen::MatrixXd inverse_of(const Eigen::MatrixXd& a) { return a.inverse(); }

SymmetricModes symmetric_modes(const Eigen::MatrixXd& a) {
    const Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd> solver(a);
    return {solver.eigenvalues(), solver.eigenvectors()};
}

}  // namespace optrel
