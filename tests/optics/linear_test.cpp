// SPDX-License-Identifier: GPL-3.0-or-later
// Decompositions against what defines them.
#include "optics/linear.h"

#include <catch2/catch.hpp>
#include <random>

using namespace optrel;

namespace {

Eigen::MatrixXd random_matrix(int rows, int columns, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> n;
    Eigen::MatrixXd out(rows, columns);
    for (double& v : out.reshaped()) v = n(random);
    return out;
}

}  // namespace

TEST_CASE("small symmetric systems are solved, and larger ones refused", "[optics][linear]") {
    for (int n = 1; n <= 6; ++n) {
        const Eigen::MatrixXd half = random_matrix(n, n, n), a = half * half.transpose();
        const Eigen::VectorXd x = random_matrix(n, 1, 10 + n), b = a * x;
        CAPTURE(n);
        CHECK((solve_symmetric(a, b) - x).norm() < 1e-7);
        CHECK((inverse_of(a) * b - x).norm() < 1e-7);
    }
    const Eigen::Matrix3d unit = Eigen::Matrix3d::Identity();
    CHECK(solve_symmetric(unit, Eigen::Vector3d(1, 2, 3)) == Eigen::Vector3d(1, 2, 3));
    const auto refused = [](const Eigen::MatrixXd& a, const Eigen::VectorXd& b) {
        try {
            solve_symmetric(a, b);
        } catch (const std::logic_error&) {
            return true;
        }
        return false;
    };
    CHECK(refused(Eigen::MatrixXd::Identity(7, 7), Eigen::VectorXd::Ones(7)));
    CHECK(refused(Eigen::MatrixXd::Ones(2, 3), Eigen::VectorXd::Ones(2)));
    CHECK(refused(Eigen::MatrixXd::Identity(3, 3), Eigen::VectorXd::Ones(2)));
}

TEST_CASE("least squares leave what is square to all columns, for one right side and for many", "[optics][linear]") {
    const Eigen::MatrixXd a = random_matrix(40, 5, 1), b = random_matrix(40, 3, 2), x = LeastSquares(a).solve(b);
    CHECK((a.transpose() * (a * x - b)).norm() < 1e-10);
    for (int k = 0; k < 3; ++k) CHECK((least_squares(a, b.col(k)) - x.col(k)).norm() < 1e-12);
    const Eigen::MatrixXd basis = orthonormal_columns(a), r = triangular_factor(a);
    CHECK((basis.transpose() * basis - Eigen::MatrixXd::Identity(5, 5)).norm() < 1e-12);
    CHECK((a - basis * (basis.transpose() * a)).norm() < 1e-12);
    CHECK((r.transpose() * r - a.transpose() * a).norm() < 1e-10);
    CHECK(r.isUpperTriangular(1e-14));
}
