// SPDX-License-Identifier: GPL-3.0-or-later
#include <catch2/catch.hpp>
#include <cmath>

#include "optics/frame_map.h"
#include "optics/uncertainty.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const PictureGeometry sigma_geometry{2400, 1600, 9.5};

ProfileNode rectilinear() {
    ProfileNode n;
    n.focal_mm = 35;
    n.model = LensModel(LensModelKind::radial_tangential, {-0.2, 0.2, 0, 0, 0, 0, 0});
    n.covariance = Eigen::MatrixXd::Zero(13, 13);
    return n;
}

ProfileNode fisheye() {
    ProfileNode n;
    n.focal_mm = 11;
    n.model = LensModel(LensModelKind::equidistant, {-0.04, 0.003, 0, 0, 0, 0, 0, 0});
    n.covariance = Eigen::MatrixXd::Zero(11, 11);
    return n;
}

double largest(const std::vector<double>& sigma) {
    double out = 0;
    for (const double s : sigma)
        if (s > out) out = s;
    return out;
}

}  // namespace

TEST_CASE("what a turn of the camera does is no uncertainty of a rectilinear lens", "[optics]") {
    ProfileNode n = rectilinear();
    // Without distortion a longer focal length is a nearer camera.
    n.model = LensModel();
    n.covariance(0, 0) = 0.01;
    CHECK(largest(field_sigma_px(n, sigma_geometry, picture_grid(sigma_geometry, 13, 9), PointsOf::frame)) < 1e-4);
    n.covariance(1, 1) = 0.01;
    CHECK(largest(field_sigma_px(n, sigma_geometry, picture_grid(sigma_geometry, 13, 9), PointsOf::frame)) < 1e-4);
}

TEST_CASE("for a fisheye the focal length counts, a turn does not", "[optics]") {
    ProfileNode n = fisheye();
    n.covariance(0, 0) = 1e-4;  // 0.01 mm of 11
    const double sigma =
        largest(field_sigma_px(n, sigma_geometry, picture_grid(sigma_geometry, 13, 9), PointsOf::frame));
    // A tenth of a percent of the radius in the corner, one axis of two.
    const double corner = 0.5 * std::hypot(2400, 1600);
    CHECK(sigma == Approx(corner * 0.01 / 11 / std::sqrt(2.0)).epsilon(0.1));
}

TEST_CASE("the uncertainty of a radial term grows into the corners", "[optics]") {
    ProfileNode n = rectilinear();
    n.covariance(5, 5) = 0.01;  // k3
    const std::vector<Vec2> grid = picture_grid(sigma_geometry, 13, 9);
    const std::vector<double> sigma = field_sigma_px(n, sigma_geometry, grid, PointsOf::frame);
    CHECK(largest(sigma) == Approx(std::max({sigma.front(), sigma.back(), sigma[12], sigma[13 * 8]})));
    CHECK(sigma[13 * 4 + 6] < 0.3 * largest(sigma));
    // Twice the sigma, twice the uncertainty.
    n.covariance(5, 5) = 0.04;
    CHECK(largest(field_sigma_px(n, sigma_geometry, grid, PointsOf::frame)) ==
          Approx(2 * largest(sigma)).epsilon(1e-3));
}

TEST_CASE("coefficients that are uncertain together while the mapping is not give none", "[optics]") {
    ProfileNode n;
    n.focal_mm = 35;
    n.model = LensModel(LensModelKind::rational, {0, 0, 0, 0, 0, 0, 0, 0, 0, 0});
    n.covariance = Eigen::MatrixXd::Zero(16, 16);
    // The same change above and below the line cancels.
    for (const int a : {3, 6})
        for (const int b : {3, 6}) n.covariance(a, b) = 9;
    CHECK(largest(field_sigma_px(n, sigma_geometry, picture_grid(sigma_geometry, 13, 9), PointsOf::frame)) < 0.01);
}

TEST_CASE("without a covariance the uncertainty is zero, out of reach it is no number", "[optics]") {
    ProfileNode n = rectilinear();
    n.covariance.resize(0, 0);
    for (const double s : field_sigma_px(n, sigma_geometry, picture_grid(sigma_geometry, 5, 5))) CHECK(s == 0);
    n = rectilinear();
    n.covariance = Eigen::MatrixXd::Identity(13, 13) * 1e-8;
    n.model = LensModel(LensModelKind::radial_tangential, {-3.0, 0, 0, 0, 0, 0, 0});  // folds at a third
    const std::vector<double> sigma =
        field_sigma_px(n, sigma_geometry, picture_grid(sigma_geometry, 13, 9), PointsOf::ideal);
    CHECK(std::isnan(sigma.front()));
    CHECK(sigma[13 * 4 + 6] >= 0);
}

TEST_CASE("directions over the frame come back to where they started", "[optics]") {
    for (const ProfileNode& n : {rectilinear(), fisheye()}) {
        const FrameMap map(n, sigma_geometry, sigma_geometry);
        for (const Vec2& at : picture_grid(sigma_geometry, 7, 5)) {
            const auto ray = map.ray(at);
            REQUIRE(ray);
            CHECK(ray->norm() == Approx(1));
            CHECK((map.centre() + map.focal_px() * n.model.bend(*ray) - at).norm() < 1e-6);
        }
    }
}
