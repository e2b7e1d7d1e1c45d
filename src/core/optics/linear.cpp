// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/linear.h"

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <Eigen/LU>
#include <Eigen/QR>

namespace optrel {

Eigen::VectorXd least_squares(const Eigen::MatrixXd& a, const Eigen::VectorXd& b) { return LeastSquares(a).solve(b); }

struct LeastSquares::Factors {
    Eigen::ColPivHouseholderQR<Eigen::MatrixXd> qr;
};
LeastSquares::LeastSquares(const Eigen::MatrixXd& a)
    : factors_(std::make_unique<Factors>(Factors{Eigen::ColPivHouseholderQR<Eigen::MatrixXd>(a)})) {}
LeastSquares::~LeastSquares() = default;
LeastSquares::LeastSquares(LeastSquares&&) noexcept = default;
LeastSquares& LeastSquares::operator=(LeastSquares&&) noexcept = default;
Eigen::MatrixXd LeastSquares::solve(const Eigen::MatrixXd& b) const { return factors_->qr.solve(b); }

SmallVector solve_symmetric(const SmallMatrix& a, const SmallVector& b) { return a.ldlt().solve(b); }

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
