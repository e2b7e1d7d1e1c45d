// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/initial_pose.h"

#include <Eigen/Geometry>
#include <Eigen/SVD>

#include "optics/linear.h"

namespace optrel {
namespace {

/// The matrix that takes board points (homogeneous) to multiples of viewing directions, by the direct linear
/// transformation on ray x (H p) = 0, which also serves directions beyond 90 degrees. Board points are centred and
/// scaled first (Hartley 1997).
Eigen::Matrix3d board_to_rays(const std::vector<Vec2>& board, const std::vector<Vec3>& rays) {
    Vec2 mean = Vec2::Zero();
    for (const Vec2& p : board) mean += p / board.size();
    double spread = 0;
    for (const Vec2& p : board) spread += (p - mean).norm() / board.size();
    const double s = spread > 0 ? std::sqrt(2.0) / spread : 1;
    Eigen::Matrix3d normalise;
    normalise << s, 0, -s * mean.x(), 0, s, -s * mean.y(), 0, 0, 1;
    Eigen::Matrix<double, 9, 9> normal = Eigen::Matrix<double, 9, 9>::Zero();
    for (std::size_t i = 0; i < board.size(); ++i) {
        const Vec3 p = normalise * board[i].homogeneous(), d = rays[i].normalized();
        Eigen::Matrix<double, 3, 9> rows;
        rows << Eigen::RowVector3d::Zero(), -d.z() * p.transpose(), d.y() * p.transpose(),  //
            d.z() * p.transpose(), Eigen::RowVector3d::Zero(), -d.x() * p.transpose(),      //
            -d.y() * p.transpose(), d.x() * p.transpose(), Eigen::RowVector3d::Zero();
        normal += rows.transpose() * rows;
    }
    const Eigen::VectorXd h = symmetric_modes(normal).vectors.col(0);
    Eigen::Matrix3d m;
    m << h.segment<3>(0).transpose(), h.segment<3>(3).transpose(), h.segment<3>(6).transpose();
    m = m * normalise;
    double same = 0;
    for (std::size_t i = 0; i < board.size(); ++i) same += rays[i].dot(m * board[i].homogeneous()) > 0 ? 1 : -1;
    return same < 0 ? Eigen::Matrix3d(-m) : m;
}

}  // namespace

Pose initial_pose(const View& view, const LensSolution& lens) {
    std::vector<Vec2> board;
    std::vector<Vec3> rays;
    for (const ViewPoint& p : view.points) {
        if (p.rejected) continue;
        const Vec2 bent = (p.uv - lens.centre_px) / lens.focal_px;
        board.push_back(p.board_mm);
        rays.push_back(lens.model.ray(bent).value_or(Vec3(bent.x(), bent.y(), 1)));
    }
    Eigen::Matrix3d h = board_to_rays(board, rays);
    h /= 0.5 * (h.col(0).norm() + h.col(1).norm());
    Eigen::Matrix3d r;
    r << h.col(0), h.col(1), h.col(0).cross(h.col(1));
    const Eigen::JacobiSVD<Eigen::Matrix3d> svd(r, Eigen::ComputeFullU | Eigen::ComputeFullV);
    r = svd.matrixU() * svd.matrixV().transpose();
    if (r.determinant() < 0) r = svd.matrixU() * Vec3(1, 1, -1).asDiagonal() * svd.matrixV().transpose();
    const Eigen::AngleAxisd turn(r);
    Pose pose;
    pose.rotation = turn.angle() * turn.axis();
    pose.translation = h.col(2);
    return pose;
}

}  // namespace optrel
