// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/exact_views.h"

#include <Eigen/Dense>
#include <Eigen/Geometry>

#include "optics/frame_map.h"
#include "optics/uncertainty.h"

namespace optrel::test {

Vec2 LensTruth::operator()(const Vec2& xy) const {
    Vec2 p = xy;
    if (division != 0) p /= 1 + division * p.squaredNorm();
    const double x = p.x(), y = p.y(), r2 = p.squaredNorm();
    const double radial = 1 + r2 * (k1 + r2 * (k2 + r2 * k3));
    Vec2 d(x * radial + 2 * p1 * x * y + p2 * (r2 + 2 * x * x), y * radial + p1 * (r2 + 2 * y * y) + 2 * p2 * x * y);
    // A tilted sensor cuts the cone of light at an angle: a homography of the plane behind the lens.
    d /= 1 + tilt_x * d.x() + tilt_y * d.y();
    return centre + focal_px * d;
}

PictureGeometry exact_geometry() { return {2464, 1640, 9.4}; }

std::vector<View> exact_views(const TrueLens& lens, const LensTruth& about, double sigma_px, unsigned seed, int count) {
    std::mt19937 random(seed);
    std::normal_distribution<double> noise(0, sigma_px);
    std::uniform_real_distribution<double> jitter(-1, 1);
    const PictureGeometry g = exact_geometry();
    static const double place[13][2] = {{0, 0},       {-0.5, 0},   {0.5, 0},    {0, -0.5},  {0, 0.5},
                                        {-0.6, -0.6}, {0.6, -0.6}, {-0.6, 0.6}, {0.6, 0.6}, {0, 0},
                                        {0.2, -0.1},  {-0.2, 0.2}, {0, 0}};
    static const double tilt[13][2] = {{0, 0},    {0, 22},    {0, -22}, {20, 0},   {-20, 0}, {15, 15}, {15, -15},
                                       {-15, 15}, {-15, -15}, {28, 5},  {-26, 12}, {8, 30},  {-5, -28}};
    std::vector<View> views;
    for (int v = 0; v < count; ++v) {
        const double* at = place[v % 13];
        const double* turn = tilt[v % 13];
        const double degree = 0.017453292519943295;
        const Eigen::Matrix3d r = (Eigen::AngleAxisd((turn[0] + 2 * jitter(random)) * degree, Vec3::UnitX()) *
                                   Eigen::AngleAxisd((turn[1] + 2 * jitter(random)) * degree, Vec3::UnitY()) *
                                   Eigen::AngleAxisd(3 * jitter(random) * degree, Vec3::UnitZ()))
                                      .toRotationMatrix();
        // The board fills about two thirds of the picture; where it is moved aside it reaches out of it.
        const double distance = 420.0 / (0.72 * g.width) * about.focal_px;
        const Vec3 t(at[0] * 0.5 * g.width / about.focal_px * distance,
                     at[1] * 0.5 * g.height / about.focal_px * distance, distance * (1 + 0.05 * jitter(random)));
        View view;
        view.name = "view " + std::to_string(v);
        for (int row = 0; row < 9; ++row)
            for (int column = 0; column < 14; ++column) {
                const Vec2 board(30 * (column - 6.5), 30 * (row - 4));
                const Vec3 p = r * Vec3(board.x(), board.y(), 0) + t;
                const Vec2 uv = lens({p.x() / p.z(), p.y() / p.z()});
                if (!(uv.x() > 4 && uv.y() > 4 && uv.x() < g.width - 4 && uv.y() < g.height - 4)) continue;
                ViewPoint point;
                point.board_mm = board;
                point.uv = uv + Vec2(noise(random), noise(random));
                point.covariance = sigma_px * sigma_px * Eigen::Matrix2d::Identity();
                view.points.push_back(point);
            }
        if (view.points.size() >= 20) views.push_back(view);
    }
    return views;
}

Profile profile_of(const LensSolution& lens, const PictureGeometry& g, double misfit_px) {
    Profile p;
    p.geometry = g;
    p.nodes.emplace_back();
    ProfileNode& n = p.nodes.back();
    n.focal_mm = lens.focal_px * g.pitch_mm();
    n.setting.focal_mm = n.focal_mm;
    n.centre_mm = g.to_sensor(lens.centre_px);
    n.model = lens.model;
    n.misfit_px = misfit_px;
    n.largest_radius_mm = g.half_diagonal_mm();
    if (lens.covariance.size()) {
        Eigen::VectorXd unit = Eigen::VectorXd::Ones(lens.covariance.rows());
        unit.head<3>().setConstant(g.pitch_mm());
        n.covariance = unit.asDiagonal() * lens.covariance * unit.asDiagonal();
    }
    return p;
}

MappingError mapping_error(const Profile& profile, const PlacedNode& placed, const TrueLens& truth,
                           const LensTruth& about, double within) {
    const PictureGeometry& g = profile.geometry;
    const FrameMap map(placed.node, profile.geometry, g);
    std::vector<Vec2> ideal;
    for (const Vec2& p : picture_grid(g, 25, 17))
        if ((p - g.middle()).norm() <= within * 0.5 * std::hypot(g.width, g.height) + 1e-9 && map.reaches(p))
            ideal.push_back(p);
    // Gauss-Newton for the homography of the truth's own directions that brings both mappings together.
    const int n = static_cast<int>(ideal.size());
    Eigen::Matrix3d h = Eigen::Matrix3d::Identity();
    const auto residual = [&](const Eigen::Matrix3d& m) {
        Eigen::VectorXd out(2 * n);
        for (int i = 0; i < n; ++i) {
            const Vec2 xy = (ideal[i] - map.centre()) / map.focal_px();
            const Vec3 d = m * Vec3(xy.x(), xy.y(), 1);
            out.segment<2>(2 * i) = map.green(ideal[i]) - truth({d.x() / d.z(), d.y() / d.z()});
        }
        return out;
    };
    h(0, 0) = h(1, 1) = map.focal_px() / about.focal_px;
    h(0, 2) = 0;
    Eigen::VectorXd r = residual(h);
    for (int round = 0; round < 12; ++round) {
        Eigen::MatrixXd j(2 * n, 8);
        for (int k = 0; k < 8; ++k) {
            Eigen::Matrix3d plus = h, minus = h;
            plus(k / 3, k % 3) += 1e-6;
            minus(k / 3, k % 3) -= 1e-6;
            j.col(k) = (residual(plus) - residual(minus)) / 2e-6;
        }
        const Eigen::VectorXd step = j.colPivHouseholderQr().solve(-r);
        for (int k = 0; k < 8; ++k) h(k / 3, k % 3) += step[k];
        r = residual(h);
    }
    const std::vector<double> sigma = mapping_sigma_px(profile, placed, g, ideal);
    MappingError out;
    for (int i = 0; i < n; ++i) {
        const double e2 = r.segment<2>(2 * i).squaredNorm();
        out.rms_px += e2 / n;
        out.largest_px = std::max(out.largest_px, std::sqrt(e2));
        out.normalised += e2 / (2 * sigma[i] * sigma[i]) / n;
    }
    out.rms_px = std::sqrt(out.rms_px);
    out.normalised = std::sqrt(out.normalised);
    return out;
}

}  // namespace optrel::test
