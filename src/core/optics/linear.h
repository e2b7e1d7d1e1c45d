// SPDX-License-Identifier: GPL-3.0-or-later
// Matrix decompositions, compiled once: compiling Eigen's templates in every file takes longer than all other code
// there.
#pragma once

#include <Eigen/Core>
#include <memory>

namespace optrel {

/// The x that minimises |a x - b|, by QR with column pivoting (Golub and Van Loan 1996, 5.5); when there are several,
/// the one that QR finds.
Eigen::VectorXd least_squares(const Eigen::MatrixXd& a, const Eigen::VectorXd& b);

/// The same for many right-hand sides.
class LeastSquares {
public:
    explicit LeastSquares(const Eigen::MatrixXd& a);
    ~LeastSquares();
    Eigen::MatrixXd solve(const Eigen::MatrixXd& b) const;

private:
    struct Factors;
    std::unique_ptr<Factors> factors_;
};

/// A vector of up to six rows without heap memory.
using SmallVector = Eigen::Matrix<double, Eigen::Dynamic, 1, 0, 6, 1>;

/// The x of a x = b for a symmetric, semidefinite a of up to six rows, by LDL^T with pivoting (Golub and Van Loan 1996,
/// 4.2.9); not finite where a is singular and b asks for more than it has. Throws std::logic_error for more rows.
SmallVector solve_symmetric(const Eigen::Ref<const Eigen::MatrixXd>& a, const Eigen::Ref<const Eigen::VectorXd>& b);

/// Householder QR of a matrix with at least as many rows as columns: an orthonormal basis of its columns, and the
/// triangular factor.
Eigen::MatrixXd orthonormal_columns(const Eigen::MatrixXd& a);
Eigen::MatrixXd triangular_factor(const Eigen::MatrixXd& a);

/// The inverse of a regular square matrix, by LU with partial pivoting.
Eigen::MatrixXd inverse_of(const Eigen::MatrixXd& a);

/// Eigenvalues of a symmetric matrix, ascending, with their vectors as columns.
struct SymmetricModes {
    Eigen::VectorXd values;
    Eigen::MatrixXd vectors;
};
SymmetricModes symmetric_modes(const Eigen::MatrixXd& a);

}  // namespace optrel
