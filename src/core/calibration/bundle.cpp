// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/bundle.h"

#include <ceres/ceres.h>
#include <ceres/rotation.h>
#include <glog/logging.h>

#include <Eigen/Cholesky>
#include <Eigen/Geometry>
#include <Eigen/LU>
#include <algorithm>
#include <array>
#include <cmath>

#include "base/angle.h"

namespace optrel {
namespace {

constexpr int lens_size = 3 + largest_coefficient_count;
constexpr int board_size = 4;
// F, cx and cy in units of the initial focal length, then the coefficients, so that all are of order one.
using LensBlock = std::array<double, lens_size>;
using BoardBlock = std::array<double, board_size>;
using PoseBlock = std::array<double, 6>;

struct Scale {
    double focal;
    Vec2 middle;
};

/// The residual of one corner with its derivatives by the chain rule. Rotation and lens are differentiated
/// automatically with few unknowns each, which takes a third of the time of differentiating the whole.
class CornerCost : public ceres::SizedCostFunction<2, lens_size, board_size, 6> {
public:
    CornerCost(LensModelKind kind, const Vec2& board, const Vec2& uv, const Eigen::Matrix2d& root, const Scale& scale)
        : kind_(kind), board_(board), uv_(uv), root_(root), scale_(scale) {}

    bool Evaluate(double const* const* parameters, double* residuals, double** jacobians) const override {
        const double *lens = parameters[0], *shape = parameters[1], *pose = parameters[2];
        const double x = board_.x(), y = board_.y();
        const Vec3 bow(x * x / BoardShape::length_mm, x * y / BoardShape::length_mm, y * y / BoardShape::length_mm);
        const Vec3 on_board(x, y * (1 + shape[0]), bow.dot(Vec3(shape[1], shape[2], shape[3])));
        using Turn = ceres::Jet<double, 3>;
        const Turn q[3] = {Turn(pose[0], 0), Turn(pose[1], 1), Turn(pose[2], 2)};
        const Turn b[3] = {Turn(on_board.x()), Turn(on_board.y()), Turn(on_board.z())};
        Turn p[3];
        ceres::AngleAxisRotatePoint(q, b, p);
        const Vec3 at(p[0].a + pose[3], p[1].a + pose[4], p[2].a + pose[5]);
        if (!kind_->angular() && at.z() < 1e-6) return false;
        if (!jacobians) {
            store(lens, kind_->bend(lens + 3, at), residuals);
            return true;
        }
        BendDerivatives bend;
        const Vec2 bent = kind_->bend(lens + 3, at, bend);
        store(lens, bent, residuals);
        const Eigen::Matrix2d weight = -scale_.focal * root_;
        const Eigen::Matrix<double, 2, 3> by_point = weight * lens[0] * bend.leftCols<3>();
        if (jacobians[0]) {
            Eigen::Map<Eigen::Matrix<double, 2, lens_size, Eigen::RowMajor>> j(jacobians[0]);
            j.col(0) = weight * bent;
            j.middleCols<2>(1) = weight;
            j.rightCols<largest_coefficient_count>() = weight * lens[0] * bend.rightCols<largest_coefficient_count>();
        }
        if (jacobians[1]) {
            const double angle = std::sqrt(pose[0] * pose[0] + pose[1] * pose[1] + pose[2] * pose[2]);
            const Vec3 axis = angle > 0 ? Vec3(pose[0] / angle, pose[1] / angle, pose[2] / angle) : Vec3::UnitX();
            const Eigen::Matrix3d r = Eigen::AngleAxisd(angle, axis).toRotationMatrix();
            Eigen::Map<Eigen::Matrix<double, 2, board_size, Eigen::RowMajor>> j(jacobians[1]);
            j.col(0) = by_point * r.col(1) * y;
            j.rightCols<3>() = by_point * r.col(2) * bow.transpose();
        }
        if (jacobians[2]) {
            Eigen::Map<Eigen::Matrix<double, 2, 6, Eigen::RowMajor>> j(jacobians[2]);
            Eigen::Matrix3d turn;
            for (int i = 0; i < 3; ++i) turn.row(i) = p[i].v.transpose();
            j.leftCols<3>() = by_point * turn;
            j.rightCols<3>() = by_point;
        }
        return true;
    }

private:
    void store(const double* lens, const Vec2& bent, double* residuals) const {
        const Vec2 miss = uv_ - scale_.middle - scale_.focal * (Vec2(lens[1], lens[2]) + lens[0] * bent);
        Eigen::Map<Vec2>(residuals, 2) = root_ * miss;
    }

    LensModelKind kind_;
    Vec2 board_, uv_;
    Eigen::Matrix2d root_;  // square root of the information
    Scale scale_;
};

/// Prior knowledge of any lens: its optical axis is perpendicular to the sensor within about an eighth of a degree,
/// its distortion is centred likewise, and its tangential terms are about a thousandth. These parameters have
/// nearly the same effect on a lens with plain barrel or pincushion distortion. Where the frames cannot separate
/// them, the prior keeps them small; without it they would grow against each other and spoil the corners that
/// nobody measured. The two polynomials of the rational model can trade against each other in the same way, and
/// have a prior too.
struct LensPrior {
    LensModelKind kind;
    static constexpr int residuals = largest_coefficient_count;

    template <class T>
    bool operator()(const T* lens, T* residual) const {
        const T* c = lens + 3;
        for (int k = 0; k < residuals; ++k) {
            const double sigma = k < kind->coefficient_count() ? kind->prior_sigma(k) : 0;
            residual[k] = sigma > 0 ? c[k] / T(sigma) : T(0);
        }
        return true;
    }
};

struct TermPrior {
    int index;
    double sigma;

    template <class T>
    bool operator()(const T* lens, T* residual) const {
        residual[0] = lens[index] / T(sigma);
        return true;
    }
};

struct BoardPrior {
    template <class T>
    bool operator()(const T* shape, T* residual) const {
        residual[0] = shape[0] / T(LensPriors::stretch);
        for (int i = 1; i < 4; ++i) residual[i] = shape[i] / T(LensPriors::bow);
        return true;
    }
};

}  // namespace

Eigen::Matrix3d Pose::matrix() const {
    const double angle = rotation.norm();
    return angle > 0 ? Eigen::AngleAxisd(angle, rotation / angle).toRotationMatrix() : Eigen::Matrix3d::Identity();
}

double View::tilt_degrees() const { return std::acos(std::min(1.0, std::abs(pose.matrix()(2, 2)))) / degree; }

Vec2 LensSolution::project(const Pose& pose, const Vec2& board_mm) const {
    return centre_px + focal_px * model.bend(Vec3(pose.matrix() * board.place(board_mm) + pose.translation));
}

Eigen::Matrix2d information_root(const Eigen::Matrix2d& covariance, double floor_px) {
    const Eigen::Matrix2d total = covariance + floor_px * floor_px * Eigen::Matrix2d::Identity();
    const Eigen::Matrix2d information = total.inverse();
    return information.llt().matrixU();
}

void set_residuals(View& view, const LensSolution& lens) {
    const Eigen::Matrix3d r = view.pose.matrix();
    double sum = 0;
    int n = 0;
    for (ViewPoint& point : view.points) {
        const Vec3 p = r * lens.board.place(point.board_mm) + view.pose.translation;
        point.residual = point.uv - (lens.centre_px + lens.focal_px * lens.model.bend(p));
        if (point.rejected) continue;
        sum += point.residual.squaredNorm();
        ++n;
    }
    view.rms_px = n ? std::sqrt(sum / n) : 0;
}

namespace {

/// Ceres reports failed trials of a solve through glog; that is of no use to the user.
const bool quiet = [] {
    FLAGS_minloglevel = google::GLOG_FATAL;
    return true;
}();

}  // namespace

std::optional<CornerDerivatives> corner_derivatives(LensModelKind kind, const ViewPoint& point, double focal_px,
                                                    const Vec2& middle_px, const Eigen::VectorXd& lens,
                                                    const Eigen::Vector4d& board, const Eigen::VectorXd& pose) {
    const CornerCost cost(kind, point.board_mm, point.uv, information_root(point.covariance, 0),
                          Scale{focal_px, middle_px});
    LensBlock block{};
    std::copy(lens.begin(), lens.end(), block.begin());
    Eigen::Matrix<double, 2, lens_size, Eigen::RowMajor> by_lens;
    Eigen::Matrix<double, 2, board_size, Eigen::RowMajor> by_board;
    Eigen::Matrix<double, 2, 6, Eigen::RowMajor> by_pose;
    const double* parameters[] = {block.data(), board.data(), pose.data()};
    double* jacobians[] = {by_lens.data(), by_board.data(), by_pose.data()};
    CornerDerivatives out;
    if (!cost.Evaluate(parameters, out.residual.data(), jacobians)) return std::nullopt;
    out.by_lens = by_lens.leftCols(lens.size());
    out.by_board = by_board;
    out.by_pose = by_pose;
    return out;
}

namespace {

/// One adjustment: the Ceres problem and the parameter blocks that it changes.
class Adjustment {
public:
    Adjustment(const std::vector<View>& views, const LensSolution& lens, const Vec2& middle_px,
               const AdjustOptions& options)
        : options_(options),
          kind_(lens.model.kind()),
          radial_terms_(lens.radial_terms),
          scale_{lens.focal_px, middle_px},
          shape_{lens.board.stretch_y, lens.board.bow_xx, lens.board.bow_xy, lens.board.bow_yy},
          board_free_(lens.board_free && !options.lens_fixed),
          poses_(views.size()) {
        LensModel::Coefficients c = lens.model.coefficients();
        for (const int k : kind_->held(radial_terms_)) c[k] = 0;
        block_[0] = 1;
        block_[1] = (lens.centre_px.x() - middle_px.x()) / scale_.focal;
        block_[2] = (lens.centre_px.y() - middle_px.y()) / scale_.focal;
        std::copy(c.begin(), c.end(), block_.begin() + 3);
        add_lens();
        add_board();
        for (std::size_t v = 0; v < views.size(); ++v) add_view(views[v], poses_[v]);
    }

    /// False when the solve gave no usable lens.
    bool solve() {
        ceres::Solver::Options solver;
        solver.max_num_iterations = options_.iterations;
        solver.linear_solver_type = ceres::DENSE_SCHUR;
        solver.function_tolerance = options_.precision;
        solver.parameter_tolerance = 1e-12;
        solver.logging_type = ceres::SILENT;
        solver.num_threads = 1;  // sums in a fixed order, so that the same frames give the same figures
        ceres::Solver::Summary summary;
        ceres::Solve(solver, &problem_, &summary);
        cost_ = summary.final_cost;
        const bool finite = std::all_of(block_.begin(), block_.end(), [](double v) { return std::isfinite(v); });
        return summary.IsSolutionUsable() && finite && block_[0] > 0;
    }

    void store(std::vector<View>& views, LensSolution& lens) const {
        lens.focal_px = block_[0] * scale_.focal;
        lens.centre_px = scale_.middle + scale_.focal * Vec2(block_[1], block_[2]);
        const int n = kind_->coefficient_count();
        lens.model = LensModel(kind_, LensModel::Coefficients(Eigen::Map<const Eigen::VectorXd>(block_.data() + 3, n)));
        lens.board = {shape_[0], shape_[1], shape_[2], shape_[3]};
        for (std::size_t v = 0; v < views.size(); ++v) {
            views[v].pose.rotation = Vec3(poses_[v][0], poses_[v][1], poses_[v][2]);
            views[v].pose.translation = Vec3(poses_[v][3], poses_[v][4], poses_[v][5]);
            set_residuals(views[v], lens);
        }
    }

    /// The robust cost divided by the degrees of freedom.
    double cost_per_residual() const {
        const int unknowns = lens_size - static_cast<int>(held().size()) + 6 * static_cast<int>(poses_.size());
        return 2 * cost_ / std::max(1, residuals_ - unknowns);
    }

    void add_covariance(LensSolution& lens) {
        if (!options_.lens_fixed) free_next_term();
        ceres::Covariance::Options how;
        how.algorithm_type = ceres::DENSE_SVD;
        how.null_space_rank = -1;
        // High powers of small angles make columns a million times shorter than others. Their weakly determined
        // directions are no null space; dropping them would state a tenth of the uncertainty or less.
        how.min_reciprocal_condition_number = 1e-24;
        ceres::Covariance covariance(how);
        std::vector<std::pair<const double*, const double*>> wanted{{block_.data(), block_.data()}};
        if (board_free_) wanted.emplace_back(shape_.data(), shape_.data());
        if (!covariance.Compute(wanted, &problem_)) return;
        // The residuals determine the size of the noise; the corners' own covariances only determine its distribution.
        const double inflate = std::max(LensPriors::least_inflation, cost_per_residual());
        Eigen::Matrix<double, lens_size, lens_size, Eigen::RowMajor> all;
        covariance.GetCovarianceBlock(block_.data(), block_.data(), all.data());
        const int n = 3 + kind_->coefficient_count();
        Eigen::VectorXd unit = Eigen::VectorXd::Ones(n);
        unit.head<3>().setConstant(scale_.focal);
        lens.covariance = unit.asDiagonal() * all.topLeftCorner(n, n) * unit.asDiagonal() * inflate;
        lens.board_sigma = {};
        if (!board_free_) return;
        Eigen::Matrix<double, board_size, board_size, Eigen::RowMajor> own;
        covariance.GetCovarianceBlock(shape_.data(), shape_.data(), own.data());
        const auto sigma = [&](int i) { return std::sqrt(std::max(0.0, own(i, i) * inflate)); };
        lens.board_sigma = {sigma(0), sigma(1), sigma(2), sigma(3)};
    }

private:
    /// Indices of the lens parameters that are held constant.
    std::vector<int> held() const {
        std::vector<int> out;
        for (const int k : kind_->held(radial_terms_)) out.push_back(3 + k);
        for (int k = kind_->coefficient_count(); k < largest_coefficient_count; ++k) out.push_back(3 + k);
        if (options_.centre_fixed) out.insert(out.end(), {1, 2});
        if (options_.decentring_fixed)
            for (int k = kind_->radial_count(); k < kind_->coefficient_count(); ++k) out.push_back(3 + k);
        return out;
    }

    void hold(const std::vector<int>& places) {
        problem_.SetManifold(block_.data(), places.empty() ? nullptr : new ceres::SubsetManifold(lens_size, places));
    }

    void add_lens() {
        problem_.AddParameterBlock(block_.data(), lens_size);
        if (options_.lens_fixed) return problem_.SetParameterBlockConstant(block_.data());
        hold(held());
        using Prior = ceres::AutoDiffCostFunction<LensPrior, LensPrior::residuals, lens_size>;
        problem_.AddResidualBlock(new Prior(new LensPrior{kind_}), nullptr, block_.data());
    }

    void add_board() {
        problem_.AddParameterBlock(shape_.data(), board_size);
        if (!board_free_) return problem_.SetParameterBlockConstant(shape_.data());
        using Prior = ceres::AutoDiffCostFunction<BoardPrior, board_size, board_size>;
        problem_.AddResidualBlock(new Prior(new BoardPrior), nullptr, shape_.data());
    }

    void add_view(const View& view, PoseBlock& pose) {
        const Vec3 &r = view.pose.rotation, &t = view.pose.translation;
        pose = {r.x(), r.y(), r.z(), t.x(), t.y(), t.z()};
        const std::size_t count = view.points.size();
        const std::size_t stride =
            options_.points_per_view > 0 ? std::max<std::size_t>(1, count / options_.points_per_view) : 1;
        for (std::size_t i = 0; i < count; i += stride) {
            const ViewPoint& point = view.points[i];
            if (point.rejected) continue;
            const Eigen::Matrix2d root = information_root(point.covariance, options_.floor_px);
            problem_.AddResidualBlock(new CornerCost(kind_, point.board_mm, point.uv, root, scale_),
                                      new ceres::HuberLoss(LensPriors::huber_sigmas), block_.data(), shape_.data(),
                                      pose.data());
            residuals_ += 2;
        }
    }

    /// Lets the first omitted radial term vary within its prior.
    void free_next_term() {
        const int next = 3 + kind_->next_term(radial_terms_);
        if (next < 3) return;
        std::vector<int> places = held();
        std::erase(places, next);
        if (options_.next_term_sigma > 0) {
            using Prior = ceres::AutoDiffCostFunction<TermPrior, 1, lens_size>;
            problem_.AddResidualBlock(new Prior(new TermPrior{next, options_.next_term_sigma}), nullptr, block_.data());
        }
        hold(places);
    }

    const AdjustOptions& options_;
    LensModelKind kind_;
    int radial_terms_;
    Scale scale_;
    LensBlock block_{};
    BoardBlock shape_;
    bool board_free_;
    std::vector<PoseBlock> poses_;
    ceres::Problem problem_;
    int residuals_ = 0;
    double cost_ = 0;
};

}  // namespace

std::optional<double> adjust(std::vector<View>& views, LensSolution& lens, const Vec2& middle_px,
                             const AdjustOptions& options) {
    Adjustment adjustment(views, lens, middle_px, options);
    if (!adjustment.solve()) return std::nullopt;
    adjustment.store(views, lens);
    if (options.covariance) adjustment.add_covariance(lens);
    return adjustment.cost_per_residual();
}

}  // namespace optrel
