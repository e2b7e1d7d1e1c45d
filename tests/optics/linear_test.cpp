// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/linear.h"

#include <catch2/catch.hpp>

using namespace optrel;

TEST_CASE("matrices are inverted, taken apart and fitted as their definitions say", "[optics]") {
    Eigen::MatrixXd a(3, 3);
    a << 4, 1, 0, 1, 3, -1, 0, -1, 2;
    CHECK((a * inverse_of(a) - Eigen::MatrixXd::Identity(3, 3)).norm() < 1e-14);
    const SymmetricModes modes = symmetric_modes(a);
    CHECK(modes.values[0] <= modes.values[1]);
    CHECK(modes.values[1] <= modes.values[2]);
    CHECK((a * modes.vectors - modes.vectors * modes.values.asDiagonal()).norm() < 1e-13);

    Eigen::MatrixXd rows(4, 2);
    rows << 1, 0, 1, 1, 1, 2, 1, 3;
    Eigen::VectorXd line(4);
    line << 1.1, 2.9, 5.1, 6.9;
    const Eigen::VectorXd fitted = least_squares(rows, line);
    CHECK(fitted[0] == Approx(1.06));
    CHECK(fitted[1] == Approx(1.96));
    CHECK((rows.transpose() * (rows * fitted - line)).norm() < 1e-12);
}
