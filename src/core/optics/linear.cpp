// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/linear.h"

#include <Eigen/Eigenvalues>
#include <Eigen/LU>
#include <Eigen/QR>

namespace optrel {

Eigen::VectorXd least_squares(const Eigen::MatrixXd& a, const Eigen::VectorXd& b) {
    return a.colPivHouseholderQr().solve(b);
}

Eigen::MatrixXd inverse_of(const Eigen::MatrixXd& a) { return a.inverse(); }

SymmetricModes symmetric_modes(const Eigen::MatrixXd& a) {
    const Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd> solver(a);
    return {solver.eigenvalues(), solver.eigenvectors()};
}

}  // namespace optrel
