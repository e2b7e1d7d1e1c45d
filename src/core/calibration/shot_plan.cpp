// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/shot_plan.h"

#include <fmt/format.h>

#include <Eigen/Core>
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "base/angle.h"
#include "base/choose.h"
#include "base/median.h"
#include "optics/frame_map.h"
#include "optics/linear.h"
#include "optics/uncertainty.h"

namespace optrel {
namespace {

Pose pose_of(const Eigen::Matrix3d& r, const Vec3& t) {
    const Eigen::AngleAxisd turn(r);
    return {turn.angle() * turn.axis(), t};
}

/// The information about the lens in the corners of a board at a pose: the rows of their derivatives by the lens
/// parameters (in sigmas), projected orthogonally to those by the pose. Their square is the Schur complement of the
/// normal equations. Rows are kept, because squaring would lose the weak directions of a lens model to rounding. Units
/// as in LensSolution::covariance.
Eigen::MatrixXd rows_of(const LensSolution& lens, const Pose& pose, const std::vector<Vec2>& board, double sigma_px) {
    const LensModel::Coefficients c = lens.model.coefficients();
    const int unknowns = 3 + static_cast<int>(c.size()), n = static_cast<int>(board.size());
    Eigen::MatrixXd by_lens(2 * n, unknowns), by_pose(2 * n, 6);
    const auto where = [&](const LensSolution& l, const Pose& at, int i) { return l.project(at, board[i]); };
    for (int k = 0; k < unknowns; ++k) {
        LensSolution plus = lens, minus = lens;
        const double step = first_of<double>({{k == 0, 1e-4 * lens.focal_px}, {k < 3, 1e-2}}, 1e-6);
        for (const auto& [moved, by] : {std::pair(&plus, step), std::pair(&minus, -step)}) {
            if (k == 0) moved->focal_px += by;
            if (k == 1 || k == 2) moved->centre_px[k - 1] += by;
            if (k >= 3) {
                LensModel::Coefficients d = c;
                d[k - 3] += by;
                moved->model = LensModel(lens.model.kind(), d);
            }
        }
        for (int i = 0; i < n; ++i)
            by_lens.block<2, 1>(2 * i, k) = (where(plus, pose, i) - where(minus, pose, i)) / (2 * step);
    }
    for (int k = 0; k < 6; ++k) {
        Pose plus = pose, minus = pose;
        const double step = k < 3 ? 1e-6 : 1e-3;
        (k < 3 ? plus.rotation[k] : plus.translation[k - 3]) += step;
        (k < 3 ? minus.rotation[k] : minus.translation[k - 3]) -= step;
        for (int i = 0; i < n; ++i)
            by_pose.block<2, 1>(2 * i, k) = (where(lens, plus, i) - where(lens, minus, i)) / (2 * step);
    }
    for (int k = 0; k < 6; ++k) by_pose.col(k).normalize();
    const Eigen::MatrixXd basis = orthonormal_columns(by_pose);
    return (by_lens - basis * (basis.transpose() * by_lens)) / sigma_px;
}

/// The triangular factor of two sets of rows, one below the other.
Eigen::MatrixXd stacked(const Eigen::MatrixXd& a, const Eigen::MatrixXd& b) {
    Eigen::MatrixXd all(a.rows() + b.rows(), a.cols());
    all << a, b;
    return triangular_factor(all);
}

/// The prior knowledge of a lens, as rows.
Eigen::MatrixXd prior_rows(const LensSolution& lens) {
    const LensModelKind kind = lens.model.kind();
    Eigen::VectorXd sigma(3 + kind->coefficient_count());
    sigma(0) = 0.1 * lens.focal_px;
    sigma(1) = sigma(2) = 0.02 * lens.focal_px;
    for (int k = 0; k < kind->coefficient_count(); ++k) {
        const double known = kind->prior_sigma(k);
        sigma(3 + k) = known > 0 ? known : 0.5;
    }
    for (const int k : kind->held(lens.radial_terms)) sigma(3 + k) = 1e-9;
    return sigma.cwiseInverse().asDiagonal();
}

struct Spot {
    const char* name;
    double u, v;       // position of the chart's middle, as shares of the picture
    double turn, tip;  // degrees about the vertical and the level axis
};

// The middle of the picture, each edge and corner with a slightly tilted chart, then strong tilts about four axes for
// the focal length.
constexpr Spot spots[] = {
    {"centre", 0.5, 0.5, 2, -3},
    {"left edge", 0.3, 0.5, 4, 3},
    {"right edge", 0.7, 0.5, -4, -3},
    {"upper edge", 0.5, 0.3, -3, 4},
    {"lower edge", 0.5, 0.7, 3, -4},
    {"upper left corner", 0.27, 0.27, 6, 5},
    {"upper right corner", 0.73, 0.27, -6, 5},
    {"lower left corner", 0.27, 0.73, 6, -5},
    {"lower right corner", 0.73, 0.73, -6, -5},
    {"centre, turned to the left", 0.5, 0.5, 35, 4},
    {"centre, turned to the right", 0.5, 0.5, -35, -4},
    {"centre, tipped back", 0.5, 0.5, 4, 34},
    {"centre, tipped forward", 0.5, 0.5, -4, -34},
};

std::string place_name(const Vec2& uv, const PictureGeometry& g) {
    const double x = uv.x() / g.width, y = uv.y() / g.height;
    const std::string across = first_of<const char*>({{x < 0.3, "left"}, {x > 0.7, "right"}}, "");
    const std::string down = first_of<const char*>({{y < 0.3, "upper"}, {y > 0.7, "lower"}}, "");
    if (across.empty() && down.empty()) return "in the middle";
    if (across.empty()) return "at the " + down + " edge";
    if (down.empty()) return "at the " + across + " edge";
    return "in the " + down + " " + across + " corner";
}

/// True when a view resembles the planned shot: its board covers the same part of the picture and tilts to the same
/// side.
bool serves(const PlannedShot& shot, const Spot& spot, const View& view, const PictureGeometry& g) {
    Vec2 low(1e9, 1e9), high(-1e9, -1e9);
    for (const ViewPoint& p : view.points) {
        low = low.cwiseMin(p.uv);
        high = high.cwiseMax(p.uv);
    }
    const double near = 0.12;
    const bool left = low.x()<near * g.width, right = high.x()>(1 - near) * g.width,
               top = low.y()<near * g.height, bottom = high.y()>(1 - near) * g.height;
    const bool tilted = std::abs(spot.turn) > 15 || std::abs(spot.tip) > 15;
    if (tilted) {
        const Vec3 wanted = shot.pose.matrix().col(2),
                   is = view.pose.matrix().col(2) * (view.pose.matrix()(2, 2) < 0 ? -1 : 1);
        const Vec2 a = wanted.head<2>(), b = is.head<2>();
        return b.norm() > 0.26 && a.normalized().dot(b.normalized()) > 0.7;
    }
    if ((spot.u < 0.4 && !left) || (spot.u > 0.6 && !right) || (spot.v < 0.4 && !top) || (spot.v > 0.6 && !bottom))
        return false;
    const Vec2 middle = 0.5 * (low + high);
    return spot.u != 0.5 || spot.v != 0.5 || (middle - g.middle()).norm() < 0.2 * g.width;
}

/// The lens at the start of a plan: the solved one, or an undistorted one with the recorded focal length.
LensSolution lens_of(const PlanRequest& request) {
    LensSolution lens;
    if (request.lens) {
        lens = *request.lens;
    } else {
        const PictureGeometry& g = request.geometry;
        lens.focal_px = request.focal_px > 0 ? request.focal_px : 1.2 * std::max(g.width, g.height);
        lens.centre_px = g.middle();
    }
    lens.board = {};
    return lens;
}

/// Noise of the typical corner, px; a tenth of a pixel before anything was measured.
double corner_sigma(const std::vector<const View*>& views, double floor_px) {
    std::vector<double> own;
    for (const View* view : views)
        for (const ViewPoint& p : view->points)
            if (!p.rejected) own.push_back(p.covariance.trace() / 2);
    return own.empty() ? 0.1 : std::sqrt(median(own) + floor_px * floor_px);
}

/// The knowledge of a lens while frames are added.
class PlanState {
public:
    explicit PlanState(const PlanRequest& request)
        : request_(request),
          lens_(lens_of(request)),
          sigma_corner_(corner_sigma(request.views, lens_.floor_px)),
          known_(prior_rows(lens_)),
          grid_(picture_grid(request.geometry, 13, 9)) {
        for (const View* view : request.views) {
            std::vector<Vec2> board;
            for (const ViewPoint& p : view->points)
                if (!p.rejected) board.push_back(p.board_mm);
            if (board.size() >= 6) known_ = with(view->pose, board);
        }
    }

    const LensSolution& lens() const { return lens_; }
    /// The current largest uncertainty over the picture (px), and its place.
    double largest(Vec2& place) const { return largest_of(known_, &place); }
    /// The same after adding a view with these points of the board.
    double largest_after(const Pose& pose, const std::vector<Vec2>& board) const {
        return largest_of(with(pose, board), nullptr);
    }

private:
    Eigen::MatrixXd with(const Pose& pose, const std::vector<Vec2>& board) const {
        return stacked(known_, rows_of(lens_, pose, board, sigma_corner_));
    }
    double largest_of(const Eigen::MatrixXd& factor, Vec2* place) const {
        const PictureGeometry& g = request_.geometry;
        ProfileNode node;
        node.focal_mm = lens_.focal_px * g.pitch_mm();
        node.centre_mm = g.to_sensor(lens_.centre_px);
        node.model = lens_.model;
        Eigen::VectorXd unit = Eigen::VectorXd::Ones(factor.rows());
        unit.head<3>().setConstant(g.pitch_mm());
        const Eigen::MatrixXd identity = Eigen::MatrixXd::Identity(factor.rows(), factor.cols());
        const Eigen::MatrixXd root =
            unit.asDiagonal() * Eigen::MatrixXd(factor.triangularView<Eigen::Upper>().solve(identity));
        node.covariance = root * root.transpose();
        const std::vector<double> sigma = field_sigma_px(node, g, grid_, PointsOf::frame);
        double most = 0;
        for (std::size_t i = 0; i < sigma.size(); ++i)
            if (sigma[i] > most) {
                most = sigma[i];
                if (place) *place = grid_[i];
            }
        return most;
    }

    const PlanRequest& request_;
    LensSolution lens_;
    double sigma_corner_;
    Eigen::MatrixXd known_;
    std::vector<Vec2> grid_;
};

/// The pose of the chart for a spot. The chart fills about three fifths of the shorter side of the picture; all shots
/// use the same distance.
Pose pose_at(const Spot& spot, const LensSolution& lens, const PlanRequest& request) {
    const PictureGeometry& g = request.geometry;
    const double fill = 0.62;
    const double share =
        std::max(request.chart.height_mm() / (fill * g.height), request.chart.width_mm() / (fill * g.width));
    const double distance = share * lens.focal_px;
    const Vec2 at = (Vec2(spot.u * g.width, spot.v * g.height) - lens.centre_px) / lens.focal_px;
    const Vec3 towards = lens.model.ray(at).value_or(Vec3(at.x(), at.y(), 1).normalized());
    const Eigen::Matrix3d lean =
        (Eigen::AngleAxisd(spot.turn * degree, Vec3::UnitY()) * Eigen::AngleAxisd(spot.tip * degree, Vec3::UnitX()))
            .toRotationMatrix();
    if (std::acos(towards.z()) <= 35 * degree) return pose_of(lean, towards * distance / towards.z());
    // A wide lens sees a chart in the corner only when the chart faces the lens.
    const Vec3 about = Vec3::UnitZ().cross(towards).normalized();
    const Eigen::Matrix3d face = Eigen::AngleAxisd(std::acos(towards.z()), about).toRotationMatrix();
    return pose_of(face * lean, towards * distance);
}

std::vector<Vec2> outline_of(const ChartSpec& chart, const Pose& pose, const LensSolution& lens) {
    const double w = chart.width_mm() / 2, h = chart.height_mm() / 2;
    constexpr int steps = 8;
    const Vec2 ring[] = {{-w, -h}, {w, -h}, {w, h}, {-w, h}};
    std::vector<Vec2> out;
    for (int side = 0; side < 4; ++side)
        for (int i = 0; i < steps; ++i)
            out.push_back(lens.project(pose, ring[side] + (ring[(side + 1) % 4] - ring[side]) * (i / double(steps))));
    return out;
}

/// The inner corners of the chart that are visible in the picture.
std::vector<Vec2> corners_seen(const ChartSpec& chart, const Pose& pose, const LensSolution& lens,
                               const PictureGeometry& g) {
    std::vector<Vec2> out;
    for (int r = 1; r < chart.squares_y; ++r)
        for (int c = 1; c < chart.squares_x; ++c) {
            const Vec2 p(c * chart.square_mm - chart.width_mm() / 2, r * chart.square_y_mm - chart.height_mm() / 2);
            if (g.contains(lens.project(pose, p))) out.push_back(p);
        }
    return out;
}

void add_flats(ShotPlan& plan, const PlanRequest& request) {
    const auto flat = [&](const char* name, bool done) {
        PlannedShot shot;
        shot.name = name;
        shot.flat = true;
        shot.done = done;
        plan.flats_done += done;
        plan.shots.push_back(shot);
    };
    flat("flat field, light from one side", request.flats_one_way >= 1);
    flat("the same once more", request.flats_one_way >= 2);
    flat("flat field, light turned half-way round", request.flats_other_way >= 1);
    flat("the same once more", request.flats_other_way >= 2);
}

}  // namespace

std::string ShotPlan::advice() const {
    if (next < 0) return shots.empty() ? "" : "All chart frames of the plan are there.";
    const PlannedShot& s = shots[next];
    return fmt::format("Next: {}. It would bring the largest uncertainty ({}) from {:.3g} to {:.3g} px.", s.name,
                       worst_name, sigma_px, s.sigma_after_px);
}

ShotPlan plan_shots(const PlanRequest& request) {
    ShotPlan plan;
    const PictureGeometry& g = request.geometry;
    const PlanState state(request);
    plan.sigma_px = state.largest(plan.worst_place);
    plan.worst_name = place_name(plan.worst_place, g);
    // The stated figure of the solution is used; the gain of a frame is a ratio to it.
    const double to_stated = request.sigma_px > 0 && plan.sigma_px > 0 ? request.sigma_px / plan.sigma_px : 1;
    plan.sigma_px *= to_stated;
    for (const Spot& spot : spots) {
        PlannedShot shot;
        shot.name = spot.name;
        shot.pose = pose_at(spot, state.lens(), request);
        shot.outline = outline_of(request.chart, shot.pose, state.lens());
        for (const View* view : request.views) shot.done = shot.done || serves(shot, spot, *view, g);
        if (shot.done) {
            ++plan.charts_done;
        } else {
            const std::vector<Vec2> board = corners_seen(request.chart, shot.pose, state.lens(), g);
            shot.sigma_after_px = plan.sigma_px;
            if (board.size() >= 6) shot.sigma_after_px = to_stated * state.largest_after(shot.pose, board);
        }
        plan.shots.push_back(std::move(shot));
    }
    for (int i = 0; i < static_cast<int>(plan.shots.size()); ++i)
        if (!plan.shots[i].done &&
            (plan.next < 0 || plan.shots[i].sigma_after_px < 0.999 * plan.shots[plan.next].sigma_after_px))
            plan.next = i;
    add_flats(plan, request);
    return plan;
}

}  // namespace optrel
