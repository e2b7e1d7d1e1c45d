#include "calibration/fringe.h"

#include <Eigen/Cholesky>
#include <Eigen/LU>
#include <algorithm>
#include <cmath>

#include "base/median.h"
#include "calibration/common_part.h"

namespace optrel {
namespace {

/// Of a median of so many values: pi / 2 times that of their mean, with the spread taken from the median deviation.
double variance_of_median(const std::vector<double>& values) {
    const double middle = median(values);
    std::vector<double> away;
    for (const double v : values) away.push_back(std::abs(v - middle));
    const double sigma = 1.4826 * median(away);
    return 1.5708 * sigma * sigma / values.size();
}

}  // namespace

std::optional<Fringe> fit_fringe(const std::vector<FringePoint>& points, const Vec2& centre_mm,
                                 const PictureGeometry& geometry) {
    if (points.size() < 40) return std::nullopt;
    const double half = geometry.half_diagonal_mm();
    using Terms = Eigen::Matrix<double, 5, 1>;
    const auto rows = [&](const FringePoint& p, Terms& x, Terms& y) {
        const Vec2 s = (p.green_mm - centre_mm) / half;
        const double q = s.squaredNorm();
        x << s.x(), s.x() * q, s.x() * q * q, 1, 0;
        y << s.y(), s.y() * q, s.y() * q * q, 0, 1;
    };
    Terms terms = Terms::Zero();
    Eigen::Matrix<double, 5, 5> last_normal = Eigen::Matrix<double, 5, 5>::Zero();
    double scale = 0;  // robust one sigma of a normalised residual
    for (int round = 0; round < 8; ++round) {
        Eigen::Matrix<double, 5, 5> normal = Eigen::Matrix<double, 5, 5>::Zero();
        Terms right = Terms::Zero();
        std::vector<double> residuals;
        for (const FringePoint& p : points) {
            Terms x, y;
            rows(p, x, y);
            const Vec2 r = p.displacement_mm - Vec2(x.dot(terms), y.dot(terms));
            const double normalised = r.norm() / p.sigma_mm;
            residuals.push_back(normalised);
            const double huber = scale > 0 && normalised > 2 * scale ? 2 * scale / normalised : 1;
            const double w = huber / (p.sigma_mm * p.sigma_mm);
            normal += w * (x * x.transpose() + y * y.transpose());
            right += w * (x * p.displacement_mm.x() + y * p.displacement_mm.y());
        }
        terms = normal.ldlt().solve(right);
        last_normal = normal;
        std::nth_element(residuals.begin(), residuals.begin() + residuals.size() / 2, residuals.end());
        scale = round == 0 ? 0 : residuals[residuals.size() / 2] / 1.177;
    }
    Fringe f;
    f.c0 = terms[0] / half;
    f.c1 = terms[1] / half;
    f.c2 = terms[2] / half;
    f.shift_mm = {terms[3], terms[4]};
    // The corners' own sigmas may be too small or too large; the spread of the residuals tells by how much.
    const Terms unit(Terms(1 / half, 1 / half, 1 / half, 1, 1));
    f.covariance = scale * scale * (unit.asDiagonal() * last_normal.inverse() * unit.asDiagonal());
    // What remains: median residuals of cells of the picture, so that neither corner noise nor a wrong corner poses as
    // aberration.
    constexpr int cells = 8;
    std::vector<double> in_x[cells][cells], in_y[cells][cells];
    for (const FringePoint& p : points) {
        Terms x, y;
        rows(p, x, y);
        const Vec2 at = geometry.to_image(p.green_mm);
        const int i = std::clamp(static_cast<int>(at.x() / geometry.width * cells), 0, cells - 1);
        const int j = std::clamp(static_cast<int>(at.y() / geometry.height * cells), 0, cells - 1);
        in_x[i][j].push_back(p.displacement_mm.x() - x.dot(terms));
        in_y[i][j].push_back(p.displacement_mm.y() - y.dot(terms));
    }
    std::vector<double> remains;
    CommonPart common(2);
    for (int i = 0; i < cells; ++i)
        for (int j = 0; j < cells; ++j)
            if (in_x[i][j].size() >= 5) {
                const Vec2 left(median(in_x[i][j]), median(in_y[i][j]));
                remains.push_back(left.norm() / geometry.pitch_mm());
                common.add(left.squaredNorm() / 2,
                           (variance_of_median(in_x[i][j]) + variance_of_median(in_y[i][j])) / 2);
            }
    f.misfit_px = common.rms() / geometry.pitch_mm();
    if (!remains.empty()) {
        std::sort(remains.begin(), remains.end());
        f.residual_p95_px = remains[static_cast<std::size_t>(0.95 * (remains.size() - 1))];
    }
    return f;
}

}  // namespace optrel
