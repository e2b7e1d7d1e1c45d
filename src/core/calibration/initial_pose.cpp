#include "calibration/initial_pose.h"

#include <Eigen/Eigenvalues>
#include <Eigen/Geometry>
#include <Eigen/SVD>

namespace optrel {
namespace {

/// Homography board (mm, centred and scaled) to camera coordinates by the direct linear transformation (Hartley 1997).
Eigen::Matrix3d homography(const std::vector<Vec2>& from, const std::vector<Vec2>& to) {
    const auto normaliser = [](const std::vector<Vec2>& points) {
        Vec2 mean = Vec2::Zero();
        for (const Vec2& p : points) mean += p / points.size();
        double spread = 0;
        for (const Vec2& p : points) spread += (p - mean).norm() / points.size();
        const double s = spread > 0 ? std::sqrt(2.0) / spread : 1;
        Eigen::Matrix3d t;
        t << s, 0, -s * mean.x(), 0, s, -s * mean.y(), 0, 0, 1;
        return t;
    };
    const Eigen::Matrix3d a = normaliser(from), b = normaliser(to);
    Eigen::Matrix<double, 9, 9> normal = Eigen::Matrix<double, 9, 9>::Zero();
    for (std::size_t i = 0; i < from.size(); ++i) {
        const Vec3 p = a * from[i].homogeneous(), q = b * to[i].homogeneous();
        Eigen::Matrix<double, 9, 1> r1, r2;
        r1 << p, Vec3::Zero(), -q.x() * p;
        r2 << Vec3::Zero(), p, -q.y() * p;
        normal += r1 * r1.transpose() + r2 * r2.transpose();
    }
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix<double, 9, 9>> solver(normal);
    const Eigen::Matrix<double, 9, 1> h = solver.eigenvectors().col(0);
    Eigen::Matrix3d m;
    m << h.segment<3>(0).transpose(), h.segment<3>(3).transpose(), h.segment<3>(6).transpose();
    return b.inverse() * m * a;
}

}  // namespace

Pose initial_pose(const View& view, const LensSolution& lens) {
    std::vector<Vec2> board, flat;
    for (const ViewPoint& p : view.points) {
        if (p.rejected) continue;
        const Vec2 bent = (p.uv - lens.centre_px) / lens.focal_px;
        board.push_back(p.board_mm);
        flat.push_back(lens.model.unbend(bent).value_or(bent));
    }
    Eigen::Matrix3d h = homography(board, flat);
    const double length = 0.5 * (h.col(0).norm() + h.col(1).norm());
    h /= length;
    if (h(2, 2) < 0) h = -h;
    Eigen::Matrix3d r;
    r.col(0) = h.col(0);
    r.col(1) = h.col(1);
    r.col(2) = h.col(0).cross(h.col(1));
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
