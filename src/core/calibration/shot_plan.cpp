#include "calibration/shot_plan.h"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <Eigen/QR>
#include <algorithm>
#include <cmath>

#include "optics/frame_map.h"
#include "optics/uncertainty.h"

namespace optrel {
namespace {

constexpr double degree = 3.14159265358979323846 / 180;

Pose pose_of(const Eigen::Matrix3d& r, const Vec3& t) {
    const Eigen::AngleAxisd turn(r);
    return {turn.angle() * turn.axis(), t};
}

/// What corners of a board in a pose tell about the lens: the rows by which they move with the lens (over their sigma),
/// less what a move of the pose does as well; their square is the Schur complement of the normal equations. Kept as
/// rows, since squaring would lose the weak directions of a lens model to rounding. Units as in
/// LensSolution::covariance.
Eigen::MatrixXd rows_of(const LensSolution& lens, const Pose& pose, const std::vector<Vec2>& board, double sigma_px) {
    const LensModel::Coefficients c = lens.model.coefficients();
    const int unknowns = 3 + static_cast<int>(c.size()), n = static_cast<int>(board.size());
    Eigen::MatrixXd by_lens(2 * n, unknowns), by_pose(2 * n, 6);
    const auto where = [&](const LensSolution& l, const Pose& at, int i) { return l.project(at, board[i]); };
    for (int k = 0; k < unknowns; ++k) {
        LensSolution plus = lens, minus = lens;
        const double step = k == 0 ? 1e-4 * lens.focal_px : k < 3 ? 1e-2 : 1e-6;
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
    const Eigen::HouseholderQR<Eigen::MatrixXd> qr(by_pose);
    const Eigen::MatrixXd basis = qr.householderQ() * Eigen::MatrixXd::Identity(2 * n, 6);
    return (by_lens - basis * (basis.transpose() * by_lens)) / sigma_px;
}

/// The triangular factor of two stacked sets of rows.
Eigen::MatrixXd stacked(const Eigen::MatrixXd& a, const Eigen::MatrixXd& b) {
    Eigen::MatrixXd all(a.rows() + b.rows(), a.cols());
    all << a, b;
    const Eigen::HouseholderQR<Eigen::MatrixXd> qr(all);
    return qr.matrixQR().topRows(a.cols()).triangularView<Eigen::Upper>();
}

/// What is known of a lens before anything was measured, as rows.
Eigen::MatrixXd prior_rows(const LensSolution& lens) {
    const int radial = lens.model.kind()->radial_count(), unknowns = 3 + lens.model.kind()->coefficient_count();
    Eigen::VectorXd sigma = Eigen::VectorXd::Constant(unknowns, 0.002);
    sigma(0) = 0.1 * lens.focal_px;
    sigma(1) = sigma(2) = 0.02 * lens.focal_px;
    const std::vector<int> held = lens.model.kind()->held(lens.radial_terms);
    const double known = lens.model.kind()->term_sigma();
    for (int k = 0; k < radial; ++k) sigma(3 + k) = known > 0 ? known : 0.5;
    for (const int k : held) sigma(3 + k) = 1e-9;
    return sigma.cwiseInverse().asDiagonal();
}

struct Spot {
    const char* name;
    double u, v;       // where the chart's middle stands, shares of the picture
    double turn, tip;  // degrees about the vertical and the level axis
};

// The middle of the picture, each edge and corner with the chart leaning a little, then clear tilts about four axes for
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
    const std::string across = x < 0.3   ? "left"
                               : x > 0.7 ? "right"
                                         : "",
                      down = y < 0.3   ? "upper"
                             : y > 0.7 ? "lower"
                                       : "";
    if (across.empty() && down.empty()) return "in the middle";
    if (across.empty()) return "at the " + down + " edge";
    if (down.empty()) return "at the " + across + " edge";
    return "in the " + down + " " + across + " corner";
}

/// Does a view look like the planned shot: its board over the same part of the picture, tilted to the same side?
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
    LensSolution lens;
    if (request.lens) {
        lens = *request.lens;
    } else {
        lens.focal_px = request.focal_px > 0 ? request.focal_px : 1.2 * std::max(g.width, g.height);
        lens.centre_px = g.middle();
    }
    lens.board = {};
    // The typical corner's own noise; nothing measured yet is taken as a tenth of a pixel.
    double sigma_corner = 0.1;
    std::vector<double> own;
    for (const View* view : request.views)
        for (const ViewPoint& p : view->points)
            if (!p.rejected) own.push_back(p.covariance.trace() / 2);
    if (!own.empty()) {
        std::nth_element(own.begin(), own.begin() + own.size() / 2, own.end());
        sigma_corner = std::sqrt(own[own.size() / 2] + lens.floor_px * lens.floor_px);
    }
    Eigen::MatrixXd known = prior_rows(lens);
    for (const View* view : request.views) {
        std::vector<Vec2> board;
        for (const ViewPoint& p : view->points)
            if (!p.rejected) board.push_back(p.board_mm);
        if (board.size() >= 6) known = stacked(known, rows_of(lens, view->pose, board, sigma_corner));
    }
    const std::vector<Vec2> grid = picture_grid(g, 13, 9);
    const auto largest = [&](const Eigen::MatrixXd& factor, Vec2* place) {
        ProfileNode node;
        node.focal_mm = lens.focal_px * g.pitch_mm();
        node.centre_mm = g.to_sensor(lens.centre_px);
        node.model = lens.model;
        Eigen::VectorXd unit = Eigen::VectorXd::Ones(factor.rows());
        unit.head<3>().setConstant(g.pitch_mm());
        const Eigen::MatrixXd root = unit.asDiagonal() * Eigen::MatrixXd(factor.triangularView<Eigen::Upper>().solve(
                                                             Eigen::MatrixXd::Identity(factor.rows(), factor.cols())));
        node.covariance = root * root.transpose();
        const std::vector<double> sigma = field_sigma_px(node, g, grid, PointsOf::frame);
        double most = 0;
        for (std::size_t i = 0; i < sigma.size(); ++i)
            if (sigma[i] > most) {
                most = sigma[i];
                if (place) *place = grid[i];
            }
        return most;
    };
    plan.sigma_px = largest(known, &plan.worst_place);
    plan.worst_name = place_name(plan.worst_place, g);
    // The solution's own figure counts; what a frame would gain is a ratio.
    const double to_stated = request.sigma_px > 0 && plan.sigma_px > 0 ? request.sigma_px / plan.sigma_px : 1;
    plan.sigma_px *= to_stated;

    // The chart fills about three fifths of the picture's shorter side; the same distance serves all shots.
    const double fill = 0.62, distance = std::max(request.chart.height_mm() / (fill * g.height),
                                                  request.chart.width_mm() / (fill * g.width)) *
                                         lens.focal_px;
    for (const Spot& spot : spots) {
        PlannedShot shot;
        shot.name = spot.name;
        const Vec2 at = (Vec2(spot.u * g.width, spot.v * g.height) - lens.centre_px) / lens.focal_px;
        const Vec3 towards = lens.model.ray(at).value_or(Vec3(at.x(), at.y(), 1).normalized());
        // A wide lens sees a chart in the corner only when it turns its face to the lens.
        const double wide = std::acos(towards.z()) > 35 * degree ? 1 : 0;
        const Eigen::Matrix3d face = wide > 0
                                         ? Eigen::Quaterniond::FromTwoVectors(Vec3::UnitZ(), towards).toRotationMatrix()
                                         : Eigen::Matrix3d::Identity();
        const Eigen::Matrix3d lean =
            (Eigen::AngleAxisd(spot.turn * degree, Vec3::UnitY()) * Eigen::AngleAxisd(spot.tip * degree, Vec3::UnitX()))
                .toRotationMatrix();
        shot.pose = pose_of(face * lean, towards * distance / (wide > 0 ? 1 : towards.z()));
        const double w = request.chart.width_mm() / 2, h = request.chart.height_mm() / 2;
        constexpr int steps = 8;
        const Vec2 ring[] = {{-w, -h}, {w, -h}, {w, h}, {-w, h}};
        for (int side = 0; side < 4; ++side)
            for (int i = 0; i < steps; ++i)
                shot.outline.push_back(
                    lens.project(shot.pose, ring[side] + (ring[(side + 1) % 4] - ring[side]) * (i / double(steps))));
        for (const View* view : request.views) shot.done = shot.done || serves(shot, spot, *view, g);
        if (shot.done) {
            ++plan.charts_done;
        } else {
            std::vector<Vec2> board;
            for (int r = 1; r < request.chart.squares_y; ++r)
                for (int c = 1; c < request.chart.squares_x; ++c) {
                    const Vec2 p(c * request.chart.square_mm - w, r * request.chart.square_y_mm - h);
                    if (g.contains(lens.project(shot.pose, p))) board.push_back(p);
                }
            shot.sigma_after_px =
                board.size() >= 6
                    ? to_stated * largest(stacked(known, rows_of(lens, shot.pose, board, sigma_corner)), nullptr)
                    : plan.sigma_px;
        }
        plan.shots.push_back(std::move(shot));
    }
    for (int i = 0; i < static_cast<int>(plan.shots.size()); ++i)
        if (!plan.shots[i].done &&
            (plan.next < 0 || plan.shots[i].sigma_after_px < 0.999 * plan.shots[plan.next].sigma_after_px))
            plan.next = i;
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
    return plan;
}

}  // namespace optrel
