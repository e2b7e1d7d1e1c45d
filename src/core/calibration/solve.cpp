#include "calibration/solve.h"

#include <ceres/ceres.h>
#include <ceres/rotation.h>
#include <fmt/format.h>

#include <Eigen/Cholesky>
#include <Eigen/Geometry>
#include <Eigen/LU>
#include <algorithm>
#include <array>
#include <cmath>

#include "base/error.h"
#include "base/parallel.h"
#include "calibration/initial_pose.h"

namespace optrel {
namespace {

constexpr int lens_size = 3 + LensModel::coefficient_count;
using LensBlock = std::array<double, lens_size>;  // F / guess, cx, cy in units of F guess, coefficients
using PoseBlock = std::array<double, 6>;

/// The lens block is scaled by a typical focal length, so that all parameters are of order one.
struct Scale {
    double focal;
    Vec2 middle;
};

struct CornerCost {
    Vec2 board, uv;
    Eigen::Matrix2d root;  // square root of the information
    Scale scale;

    template <class T>
    bool operator()(const T* lens, const T* pose, T* residual) const {
        const T on_board[3] = {T(board.x()), T(board.y()), T(0)};
        T p[3];
        ceres::AngleAxisRotatePoint(pose, on_board, p);
        for (int i = 0; i < 3; ++i) p[i] += pose[3 + i];
        if (p[2] < T(1e-6)) return false;
        T x, y;
        bend_radial_tangential(lens + 3, T(p[0] / p[2]), T(p[1] / p[2]), x, y);
        const T du = T(uv.x()) - (T(scale.middle.x()) + T(scale.focal) * (lens[1] + lens[0] * x));
        const T dv = T(uv.y()) - (T(scale.middle.y()) + T(scale.focal) * (lens[2] + lens[0] * y));
        residual[0] = T(root(0, 0)) * du + T(root(0, 1)) * dv;
        residual[1] = T(root(1, 0)) * du + T(root(1, 1)) * dv;
        return true;
    }
};

/// What is known of any lens beforehand: its axis of symmetry lies within about an eighth of a degree of the perpendicular, and
/// its tangential terms are of the order of a thousandth. Both do nearly the same to a lens of plain barrel or pincushion
/// distortion; where the frames cannot tell them apart, or say nothing about them, they stay small instead of running away
/// against each other into the corners that nobody measured.
struct DecentringPrior {
    template <class T>
    bool operator()(const T* lens, T* residual) const {
        for (int i = 0; i < 4; ++i) residual[i] = lens[6 + i] / T(0.002);
        return true;
    }
};

LensBlock pack(const LensSolution& s, const Scale& scale) {
    LensBlock block{s.focal_px / scale.focal, (s.centre_px.x() - scale.middle.x()) / scale.focal, (s.centre_px.y() - scale.middle.y()) / scale.focal};
    for (int i = 0; i < LensModel::coefficient_count; ++i) block[3 + i] = s.model.coefficients()[i];
    return block;
}

void unpack(const LensBlock& block, const Scale& scale, LensSolution& s) {
    s.focal_px = block[0] * scale.focal;
    s.centre_px = scale.middle + scale.focal * Vec2(block[1], block[2]);
    LensModel::Coefficients c;
    std::copy(block.begin() + 3, block.end(), c.begin());
    s.model = LensModel(LensModelKind::radial_tangential, c);
}

Eigen::Matrix2d information_root(const Eigen::Matrix2d& covariance, double floor_px) {
    const Eigen::Matrix2d total = covariance + floor_px * floor_px * Eigen::Matrix2d::Identity();
    const Eigen::Matrix2d information = total.inverse();
    return information.llt().matrixU();
}

void set_residuals(View& view, const LensSolution& lens) {
    const Eigen::Matrix3d r = view.pose.rotation.norm() > 0 ? Eigen::AngleAxisd(view.pose.rotation.norm(), view.pose.rotation.normalized()).toRotationMatrix()
                                                            : Eigen::Matrix3d::Identity();
    double sum = 0;
    int n = 0;
    for (ViewPoint& point : view.points) {
        const Vec3 p = r * Vec3(point.board_mm.x(), point.board_mm.y(), 0) + view.pose.translation;
        const Vec2 predicted = lens.centre_px + lens.focal_px * lens.model.bend(Vec2(p.x() / p.z(), p.y() / p.z()));
        point.residual = point.uv - predicted;
        if (point.rejected) continue;
        sum += point.residual.squaredNorm();
        ++n;
    }
    view.rms_px = n ? std::sqrt(sum / n) : 0;
}

struct AdjustOptions {
    double floor_px = 0.02;
    int iterations = 60;
    bool lens_fixed = false;
    std::vector<int> fixed_terms;  // indices into the lens block
    bool covariance = false;
};

/// One bundle adjustment. Returns the robust cost over the number of residuals.
double adjust(std::vector<View>& views, LensSolution& lens, const Scale& scale, const AdjustOptions& options) {
    LensBlock block = pack(lens, scale);
    std::vector<PoseBlock> poses(views.size());
    ceres::Problem problem;
    problem.AddParameterBlock(block.data(), lens_size);
    if (options.lens_fixed) {
        problem.SetParameterBlockConstant(block.data());
    } else if (!options.fixed_terms.empty()) {
        problem.SetManifold(block.data(), new ceres::SubsetManifold(lens_size, options.fixed_terms));
    }
    if (!options.lens_fixed) problem.AddResidualBlock(new ceres::AutoDiffCostFunction<DecentringPrior, 4, lens_size>(new DecentringPrior), nullptr, block.data());
    int residuals = 0;
    for (std::size_t v = 0; v < views.size(); ++v) {
        const Pose& pose = views[v].pose;
        poses[v] = {pose.rotation.x(), pose.rotation.y(), pose.rotation.z(), pose.translation.x(), pose.translation.y(), pose.translation.z()};
        for (const ViewPoint& point : views[v].points) {
            if (point.rejected) continue;
            auto* cost = new ceres::AutoDiffCostFunction<CornerCost, 2, lens_size, 6>(
                new CornerCost{point.board_mm, point.uv, information_root(point.covariance, options.floor_px), scale});
            problem.AddResidualBlock(cost, new ceres::HuberLoss(2.5), block.data(), poses[v].data());
            residuals += 2;
        }
    }
    ceres::Solver::Options solver;
    solver.max_num_iterations = options.iterations;
    solver.linear_solver_type = ceres::DENSE_SCHUR;
    solver.function_tolerance = 1e-10;
    solver.parameter_tolerance = 1e-12;
    solver.logging_type = ceres::SILENT;
    solver.num_threads = 1;  // sums in a fixed order: same frames, same figures
    ceres::Solver::Summary summary;
    ceres::Solve(solver, &problem, &summary);
    unpack(block, scale, lens);
    for (std::size_t v = 0; v < views.size(); ++v) {
        views[v].pose.rotation = Vec3(poses[v][0], poses[v][1], poses[v][2]);
        views[v].pose.translation = Vec3(poses[v][3], poses[v][4], poses[v][5]);
        set_residuals(views[v], lens);
    }
    const double per_residual = 2 * summary.final_cost / std::max(1, residuals - lens_size - 6 * static_cast<int>(views.size()));
    if (options.covariance && summary.IsSolutionUsable()) {
        ceres::Covariance::Options how;
        how.algorithm_type = ceres::DENSE_SVD;
        how.null_space_rank = -1;
        ceres::Covariance covariance(how);
        const std::vector<std::pair<const double*, const double*>> wanted{{block.data(), block.data()}};
        if (covariance.Compute(wanted, &problem)) {
            Eigen::Matrix<double, lens_size, lens_size, Eigen::RowMajor> c;
            covariance.GetCovarianceBlock(block.data(), block.data(), c.data());
            Eigen::VectorXd unit = Eigen::VectorXd::Ones(lens_size);
            unit.head<3>().setConstant(scale.focal);
            lens.covariance = unit.asDiagonal() * c * unit.asDiagonal() * std::max(1.0, per_residual);
        }
    }
    return summary.IsSolutionUsable() ? per_residual : 1e300;
}

double median_of(std::vector<double> v) {
    std::nth_element(v.begin(), v.begin() + v.size() / 2, v.end());
    return v[v.size() / 2];
}

/// The noise beyond the corners' own covariance, from the median residual (Rayleigh: median of |r|^2 is 1.386 sigma^2).
double estimate_floor(const std::vector<View>& views) {
    std::vector<double> squared, own;
    for (const View& view : views)
        for (const ViewPoint& p : view.points)
            if (!p.rejected) {
                squared.push_back(p.residual.squaredNorm());
                own.push_back(p.covariance.trace() / 2);
            }
    const double total = median_of(squared) / 1.386, explained = median_of(own);
    return std::sqrt(std::max(1e-6, total - explained));
}

bool reject_outliers(std::vector<View>& views, double floor_px) {
    bool any = false;
    for (View& view : views)
        for (ViewPoint& p : view.points) {
            if (p.rejected) continue;
            const Vec2 r = information_root(p.covariance, floor_px) * p.residual;
            if (r.norm() > 5.5) {
                p.rejected = true;
                any = true;
            }
        }
    return any;
}

void overall_rms(const std::vector<View>& views, LensSolution& lens) {
    double sum = 0;
    lens.points = 0;
    for (const View& view : views)
        for (const ViewPoint& p : view.points)
            if (!p.rejected) {
                sum += p.residual.squaredNorm();
                ++lens.points;
            }
    lens.rms_px = lens.points ? std::sqrt(sum / lens.points) : 0;
}

/// Sets the radial terms that a lens does not use to zero, and tells their places in the lens block.
std::vector<int> hold_unused_terms(LensSolution& lens) {
    LensModel::Coefficients c = lens.model.coefficients();
    std::vector<int> held;
    for (int term = lens.radial_terms; term < 3; ++term) {
        c[term] = 0;
        held.push_back(3 + term);
    }
    lens.model = LensModel(lens.model.kind(), c);
    return held;
}

LensSolution plain_lens(double focal_px, const PictureGeometry& geometry) {
    LensSolution lens;
    lens.focal_px = focal_px;
    lens.centre_px = geometry.middle();
    return lens;
}

/// A start from nothing but the picture: for each focal length a short adjustment; the best one goes on.
LensSolution find_start(std::vector<View>& views, const PictureGeometry& geometry, double known_focal_px, const Progress& progress) {
    const double longer = std::max(geometry.width, geometry.height);
    std::vector<double> focals;
    if (known_focal_px > 0) focals.push_back(known_focal_px);
    const auto attempt = [&](double focal, std::vector<View>& trial, LensSolution& lens) {
        lens = plain_lens(focal, geometry);
        for (View& view : trial) view.pose = initial_pose(view, lens);
        const Scale scale{focal, geometry.middle()};
        AdjustOptions coarse;
        coarse.floor_px = 1.0;
        coarse.iterations = 25;
        coarse.fixed_terms = {1, 2, 5, 6, 7, 8, 9};
        adjust(trial, lens, scale, coarse);
        coarse.fixed_terms = {8, 9};
        coarse.floor_px = 0.3;
        return adjust(trial, lens, scale, coarse);
    };
    LensSolution best;
    std::vector<View> best_views;
    double best_cost = 1e300;
    const auto consider = [&](double focal) {
        progress.check();
        std::vector<View> trial = views;
        LensSolution lens;
        const double cost = attempt(focal, trial, lens);
        const bool plausible = lens.focal_px > 0.1 * longer && lens.focal_px < 100 * longer;
        if (plausible && cost < best_cost) {
            best_cost = cost;
            best = lens;
            best_views = std::move(trial);
        }
    };
    for (const double focal : focals) consider(focal);
    if (best_cost > 4)
        for (const double factor : {0.45, 0.65, 0.9, 1.3, 1.9, 3.0}) consider(factor * longer);
    if (best_views.empty())
        throw input_error("No lens fits the corners of these frames: check that all show one flat chart taken with one lens at one setting.");
    views = std::move(best_views);
    return best;
}

}  // namespace

double View::tilt_degrees() const {
    const Eigen::Matrix3d r = pose.rotation.norm() > 0 ? Eigen::AngleAxisd(pose.rotation.norm(), pose.rotation.normalized()).toRotationMatrix()
                                                       : Eigen::Matrix3d::Identity();
    return std::acos(std::min(1.0, std::abs(r(2, 2)))) * 180 / 3.14159265358979323846;
}

LensSolution solve_lens(std::vector<View>& views, const PictureGeometry& geometry, const SolveStart& start, const Progress& progress) {
    std::size_t points = 0;
    for (const View& view : views) points += view.points.size();
    if (views.size() < 3 || points < 60)
        throw input_error(fmt::format("Only {} frames with {} corners are usable, but a lens needs at least 3 frames and 60 corners: shoot more chart frames.",
                                      views.size(), points));
    LensSolution lens = start.previous ? *start.previous : find_start(views, geometry, start.focal_px, progress);
    for (View& view : views)
        if (!(view.pose.translation.z() > 0)) view.pose = initial_pose(view, lens);
    const Scale scale{lens.focal_px, geometry.middle()};
    AdjustOptions options;
    lens.radial_terms = start.radial_terms;
    options.fixed_terms = hold_unused_terms(lens);
    options.floor_px = start.previous ? std::max(0.002, start.previous->floor_px) : 0.1;
    adjust(views, lens, scale, options);
    for (int round = 0; round < 3; ++round) {
        progress.check();
        lens.floor_px = options.floor_px = estimate_floor(views);
        const bool rejected = reject_outliers(views, options.floor_px);
        adjust(views, lens, scale, options);
        if (!rejected && round > 0) break;
    }
    options.covariance = true;
    lens.floor_px = options.floor_px = estimate_floor(views);
    adjust(views, lens, scale, options);

    // A polynomial that folds back inside the picture would tear it: take the highest term away, then the next.
    const Vec2 far = (lens.centre_px - geometry.middle()).cwiseAbs() + geometry.middle();
    for (const std::vector<int>& fixed : {std::vector<int>{5}, std::vector<int>{4, 5}}) {
        if (static_cast<int>(fixed.size()) <= 3 - lens.radial_terms) continue;
        const double reach = far.norm() / lens.focal_px;
        const double r = lens.model.monotonic_radius();
        if (!std::isfinite(r) || r * (lens.model.bend(Vec2(r, 0)).x() / r) > reach) break;
        LensModel::Coefficients c = lens.model.coefficients();
        for (const int term : fixed) c[term - 3] = 0;
        lens.model = LensModel(lens.model.kind(), c);
        lens.radial_terms = 3 - static_cast<int>(fixed.size());
        options.fixed_terms = fixed;
        adjust(views, lens, scale, options);
    }
    overall_rms(views, lens);
    if (!(lens.rms_px < 0.02 * std::max(geometry.width, geometry.height)))
        throw input_error(fmt::format("The best lens misses the corners by {:.1f} px: the frames do not show one flat chart taken at one lens setting.", lens.rms_px));
    return lens;
}

void solve_pose(View& view, const LensSolution& lens) {
    std::vector<View> one{view};
    one[0].pose = initial_pose(view, lens);
    LensSolution fixed = lens;
    AdjustOptions options;
    options.lens_fixed = true;
    options.floor_px = std::max(0.005, lens.floor_px);
    options.iterations = 30;
    adjust(one, fixed, Scale{lens.focal_px, lens.centre_px}, options);
    view = one[0];
}

double held_out_rms_px(const std::vector<View>& views, const PictureGeometry& geometry, const LensSolution& solution, const Progress& progress) {
    const int groups = std::min<int>(4, static_cast<int>(views.size()) - 2);
    if (groups < 2) return 0;
    std::vector<double> sums(groups, 0);
    std::vector<int> counts(groups, 0);
    parallel_for(groups, [&](int group) {
        progress.check();
        std::vector<View> used;
        std::vector<View> judged;
        for (std::size_t i = 0; i < views.size(); ++i) (static_cast<int>(i) % groups == group ? judged : used).push_back(views[i]);
        LensSolution lens = solution;
        AdjustOptions options;
        options.floor_px = std::max(0.002, solution.floor_px);
        options.iterations = 30;
        options.fixed_terms = hold_unused_terms(lens);
        adjust(used, lens, Scale{solution.focal_px, geometry.middle()}, options);
        for (View& view : judged) {
            solve_pose(view, lens);
            for (const ViewPoint& p : view.points)
                if (!p.rejected) {
                    sums[group] += p.residual.squaredNorm();
                    ++counts[group];
                }
        }
    });
    double sum = 0;
    int count = 0;
    for (int g = 0; g < groups; ++g) {
        sum += sums[g];
        count += counts[g];
    }
    return count ? std::sqrt(sum / count) : 0;
}

}  // namespace optrel
