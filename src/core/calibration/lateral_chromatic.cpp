// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/lateral_chromatic.h"

#include <Eigen/Core>
#include <Eigen/LU>
#include <algorithm>
#include <cmath>

#include "base/median.h"
#include "calibration/common_part.h"
#include "optics/linear.h"

namespace optrel {
namespace {

/// Variance of the median of these values: pi / 2 times that of their mean, with the spread from the median deviation.
double variance_of_median(const std::vector<double>& values) {
    const double middle = median(values);
    std::vector<double> away;
    for (const double v : values) away.push_back(std::abs(v - middle));
    const double sigma = 1.4826 * median(away);
    return 1.5708 * sigma * sigma / values.size();
}

using Terms = Eigen::Matrix<double, 5, 1>;
using Normal = Eigen::Matrix<double, 5, 5>;

/// The displacement of red or blue as a linear model: three radial terms over the half-diagonal and a shift.
class FringeModel {
public:
    FringeModel(const Vec2& centre_mm, double half_mm) : centre_(centre_mm), half_(half_mm) {}

    void rows(const ChromaticPoint& p, Terms& x, Terms& y) const {
        const Vec2 s = (p.green_mm - centre_) / half_;
        const double q = s.squaredNorm();
        x << s.x(), s.x() * q, s.x() * q * q, 1, 0;
        y << s.y(), s.y() * q, s.y() * q * q, 0, 1;
    }
    Vec2 rest(const ChromaticPoint& p) const {
        Terms x, y;
        rows(p, x, y);
        return p.displacement_mm - Vec2(x.dot(terms_), y.dot(terms_));
    }

    /// Iterated least squares with Huber's weights.
    void solve(const std::vector<ChromaticPoint>& points) {
        for (int round = 0; round < 8; ++round) {
            normal_.setZero();
            scatter_.setZero();
            Terms right = Terms::Zero();
            std::vector<double> residuals;
            for (const ChromaticPoint& p : points) {
                Terms x, y;
                rows(p, x, y);
                const double normalised = rest(p).norm() / p.sigma_mm;
                residuals.push_back(normalised);
                const double huber = scale_ > 0 && normalised > 2 * scale_ ? 2 * scale_ / normalised : 1;
                const double w = huber / (p.sigma_mm * p.sigma_mm);
                normal_ += w * (x * x.transpose() + y * y.transpose());
                right += w * (x * p.displacement_mm.x() + y * p.displacement_mm.y());
                const Vec2 left = rest(p);
                const Terms pull = w * (x * left.x() + y * left.y());
                scatter_ += pull * pull.transpose();
            }
            terms_ = solve_symmetric(normal_, right);
            scale_ = round == 0 ? 0 : median(residuals) / 1.177;
        }
    }

    LateralChromatic result() const {
        LateralChromatic f;
        f.c0 = terms_[0] / half_;
        f.c1 = terms_[1] / half_;
        f.c2 = terms_[2] / half_;
        f.shift_mm = {terms_[3], terms_[4]};
        // The corners' own sigmas may be wrong by factors that vary over the picture. The influence of the residuals on
        // the terms gives the scatter of the terms (White 1980).
        const Terms unit(Terms(1 / half_, 1 / half_, 1 / half_, 1, 1));
        const Normal inverse = inverse_of(normal_);
        f.covariance = unit.asDiagonal() * (inverse * scatter_ * inverse) * unit.asDiagonal();
        return f;
    }

private:
    Vec2 centre_;
    double half_;
    Terms terms_ = Terms::Zero();
    Normal normal_ = Normal::Zero(), scatter_ = Normal::Zero();
    double scale_ = 0;  ///< robust one sigma of a normalised residual
};

/// Computes what remains after correction, from median residuals of cells of the picture, so that corner noise and
/// wrong corners do not count as aberration.
void add_remains(const std::vector<ChromaticPoint>& points, const FringeModel& model, const PictureGeometry& geometry,
                 LateralChromatic& f) {
    constexpr int across = 8, down = 8;
    struct Cell {
        std::vector<double> x, y;
    };
    std::vector<Cell> cells(across * down);
    for (const ChromaticPoint& p : points) {
        const Vec2 rest = model.rest(p);
        Cell& cell = cells[geometry.cell(geometry.to_image(p.green_mm), across, down)];
        cell.x.push_back(rest.x());
        cell.y.push_back(rest.y());
    }
    std::vector<double> remains;
    CommonPart common(2);
    for (const Cell& cell : cells) {
        if (cell.x.size() < 5) continue;
        const Vec2 left(median(cell.x), median(cell.y));
        remains.push_back(left.norm() / geometry.pitch_mm());
        common.add(left.squaredNorm() / 2, (variance_of_median(cell.x) + variance_of_median(cell.y)) / 2);
    }
    f.misfit_px = common.rms() / geometry.pitch_mm();
    if (remains.empty()) return;
    std::sort(remains.begin(), remains.end());
    f.residual_p95_px = remains[static_cast<std::size_t>(0.95 * (remains.size() - 1))];
}

}  // namespace

std::optional<LateralChromatic> fit_lateral_chromatic(const std::vector<ChromaticPoint>& points, const Vec2& centre_mm,
                                                      const PictureGeometry& geometry) {
    if (points.size() < 40) return std::nullopt;
    FringeModel model(centre_mm, geometry.half_diagonal_mm());
    model.solve(points);
    LateralChromatic f = model.result();
    add_remains(points, model, geometry, f);
    return f;
}

}  // namespace optrel
