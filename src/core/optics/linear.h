// SPDX-License-Identifier: GPL-3.0-or-later
// Decompositions of matrices of any size, compiled once: every file that used Eigen's templates by itself would compile
// them anew.
#pragma once

#include <Eigen/Core>

namespace optrel {

/// The x of least |a x - b|, by QR with column pivoting (Golub and Van Loan 1996, 5.5); of several the one that QR
/// finds.
Eigen::VectorXd least_squares(const Eigen::MatrixXd& a, const Eigen::VectorXd& b);

/// Of a square matrix, by LU with partial pivoting; it has to have one.
Eigen::MatrixXd inverse_of(const Eigen::MatrixXd& a);

/// Eigenvalues of a symmetric matrix, ascending, with their vectors as columns.
struct SymmetricModes {
    Eigen::VectorXd values;
    Eigen::MatrixXd vectors;
};
SymmetricModes symmetric_modes(const Eigen::MatrixXd& a);

}  // namespace optrel
